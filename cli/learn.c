/* Learns what a sender sends: from recordings, or from a line while somebody uses it.
 * Asks for one button at a time, keeps what came with its times, and hands that to host/learn.
 * It finds nothing by itself. */
#include <errno.h>
#include <poll.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "endpoint/board_line.h"
#include "files/files.h"
#include "learn/learn.h"
#include "lexicon/check/check.h"
#include "rlx_cli.h"

#define ROUNDS      3u     /* times that each button is pressed */
#define CLOCK_US    20000u /* a USB converter keeps bytes for up to 16 ms */
#define PACKET_MOST 255u

/* ---- listening ---- */

struct session {
    struct board_line *line;
    const struct outside_line *outside;
    struct recording *recording;
    gint64 began;
    bool packets;
    GByteArray *part; /* of a packet */
    GString *typed;
    bool over; /* standard input has ended */
};

static uint64_t now_us(const struct session *s)
{
    return (uint64_t)(g_get_monotonic_time() - s->began);
}

/* All of it came just now. */
static void hear(struct session *s, const guint8 *bytes, size_t count, bool packet)
{
    uint64_t now = now_us(s);
    recording_hear(s->recording, now, now, bytes, count, packet);
}

/* Each packet has its length before it, two bytes, the high one first. */
static void take_packets(struct session *s, const guint8 *bytes, size_t count)
{
    g_byte_array_append(s->part, bytes, (guint)count);
    while (s->part->len >= 2) {
        guint length = (guint)s->part->data[0] << 8 | s->part->data[1];
        if (s->part->len < 2 + length) return;
        if (length && length <= PACKET_MOST) hear(s, s->part->data + 2, length, true);
        g_byte_array_remove_range(s->part, 0, 2 + length);
    }
}

static void listen(struct session *s)
{
    uint8_t bytes[512];
    size_t n;
    while ((n = s->outside->take(s->outside->user, bytes, sizeof bytes, 0)) > 0) {
        if (s->packets)
            take_packets(s, bytes, n);
        else
            hear(s, bytes, n, false);
    }
}

static void type(struct session *s)
{
    char bytes[256];
    ssize_t n = read(STDIN_FILENO, bytes, sizeof bytes);
    if (n > 0) g_string_append_len(s->typed, bytes, n);
    s->over |= n == 0 || (n < 0 && errno != EINTR && errno != EAGAIN);
}

/* Listens until a line is typed, or up to a time; NULL: none came. Owned by the caller. */
static char *await_line(struct session *s, uint64_t until_us)
{
    for (;;) {
        char *end = memchr(s->typed->str, '\n', s->typed->len);
        if (end) {
            char *line = g_strndup(s->typed->str, (gsize)(end - s->typed->str));
            g_string_erase(s->typed, 0, end - s->typed->str + 1);
            return g_strstrip(line);
        }
        uint64_t now = now_us(s);
        if (s->over || now >= until_us || s->outside->failure(s->outside->user)) return NULL;
        int wait = until_us == UINT64_MAX ? 1000 : (int)MIN((until_us - now) / 1000 + 1, 1000);
        struct pollfd fds[] = {{.fd = board_line_fd(s->line), .events = POLLIN},
                               {.fd = STDIN_FILENO, .events = POLLIN}};
        if (poll(fds, until_us == UINT64_MAX ? 2 : 1, wait) < 0 && errno != EINTR) return NULL;
        listen(s);
        if (fds[1].revents) type(s);
    }
}

/* Somebody was asked to do something, and does it from now on; Enter says that it is done. */
static bool ask(struct session *s, enum act act, const char *name, const char *text)
{
    unsigned before = s->recording->bytes->len;
    fprintf(stderr, "  %s, then press Enter. ", text);
    fflush(stderr);
    recording_mark(s->recording, now_us(s), act, name);
    char *line = await_line(s, UINT64_MAX);
    if (line && !isatty(STDIN_FILENO)) fputc('\n', stderr);
    if (line) fprintf(stderr, "  (%u bytes came)\n", s->recording->bytes->len - before);
    g_free(line);
    return line != NULL;
}

static bool ask_button(struct session *s, const char *name)
{
    bool ok = true;
    for (unsigned i = 1; ok && i <= ROUNDS; i++) {
        char *press =
            g_strdup_printf("%u of %u: press %s, and hold it for two seconds", i, ROUNDS, name);
        char *release = g_strdup_printf("%u of %u: release %s", i, ROUNDS, name);
        ok = ask(s, ACT_PRESSED, name, press) && ask(s, ACT_RELEASED, name, release);
        g_free(press);
        g_free(release);
    }
    return ok;
}

static bool ask_slider(struct session *s, const char *name)
{
    char *text = g_strdup_printf("move %s slowly from one end to the other, and back", name);
    bool ok = ask(s, ACT_SLID, name, text);
    g_free(text);
    return ok;
}

/* Buttons and sliders, until an empty line. */
static void ask_all(struct session *s)
{
    for (;;) {
        fputs("A button's name, or \"slider NAME\"; empty: no more. ", stderr);
        fflush(stderr);
        char *line = await_line(s, UINT64_MAX);
        if (!line || !*line) {
            g_free(line);
            return;
        }
        if (!isatty(STDIN_FILENO)) fputc('\n', stderr);
        bool slider = g_str_has_prefix(line, "slider ");
        const char *name = slider ? line + 7 : line;
        bool ok = true;
        if (!lex_name_ok(name))
            fprintf(stderr, "'%s' is no name: a letter, then letters, digits or '_', 31 at most\n",
                    name);
        else
            ok = slider ? ask_slider(s, name) : ask_button(s, name);
        g_free(line);
        if (!ok) return;
    }
}

struct wanted {
    char *device, *baud, *format, *record, *link, *handset, *lexicon, *output, *length;
    gboolean packets, anywhere;
    uint64_t for_us;
};

static struct wanted w;

/* NULL after a message. */
static struct recording *record(void)
{
    struct lex_link link = {.format = {8, 1, LEX_PARITY_NONE, false}, .baud = 9600};
    struct board_line_options options = {.anywhere = w.anywhere};
    GError *error = NULL;
    guint64 baud = 9600;
    if ((w.baud && !g_ascii_string_to_unsigned(w.baud, 10, 50, 10000000, &baud, NULL)) ||
        (w.format && !lex_format_read(w.format, &link.format))) {
        fprintf(stderr, "%s: --baud takes 50..10000000, --format like 8N1, 7E1 or 8E2\n",
                g_get_prgname());
        return NULL;
    }
    link.baud = (unsigned)baud;
    struct session s = {
        .packets = w.packets, .part = g_byte_array_new(), .typed = g_string_new("")};
    s.line = board_line_open(w.device, &link, &options, &error);
    s.recording = recording_new();
    if (s.line) {
        struct recording *r = s.recording;
        r->link = g_strdup(w.link ? w.link : "wire");
        r->handset = g_strdup(w.handset ? w.handset : "remote");
        r->medium = w.packets ? LEX_RADIO : LEX_SERIAL;
        r->baud = w.packets ? 0 : link.baud;
        r->format = link.format;
        r->clock_us = CLOCK_US;
        s.outside = board_line_outside(s.line);
        s.began = g_get_monotonic_time();
        if (w.for_us)
            g_free(await_line(&s, w.for_us));
        else
            ask_all(&s);
        listen(&s);
        const char *failure = s.outside->failure(s.outside->user);
        if (failure) fprintf(stderr, "%s: %s: the recording ends here\n", g_get_prgname(), failure);
    } else {
        fprintf(stderr, "%s: --device %s\n", g_get_prgname(), error->message);
    }
    bool ok = s.line != NULL;
    if (ok && !s.recording->bytes->len) {
        fprintf(stderr,
                "%s: nothing came from %s: is it the right line, and the right baud "
                "rate?\n",
                g_get_prgname(), w.device);
        ok = false;
    }
    if (ok && w.record && !recording_write(s.recording, w.record, &error)) {
        fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        ok = false;
    }
    g_clear_error(&error);
    board_line_free(s.line);
    g_byte_array_free(s.part, TRUE);
    g_string_free(s.typed, TRUE);
    if (ok) return s.recording;
    recording_free(s.recording);
    return NULL;
}

/* ---- results ---- */

/* The proposal as rlx check sees it: its faults are what a person has to correct. */
static void check_proposal(const char *lexicon)
{
    struct lexicon *lx =
        lexicon_read_text("the proposed lexicon", g_strdup(lexicon), strlen(lexicon));
    struct image *image = image_build(lx);
    lexicon_check(lx, image);
    char *faults = lexicon_faults_text(lx, CLI_FAULTS);
    printf("\nrlx check: %s\n", *faults ? "this is left to do" : "it is sound");
    cli_print(stdout, faults);
    if (*faults) putchar('\n');
    g_free(faults);
    if (image) image_free(image);
    lexicon_free(lx);
}

static const struct lex_handset *handset_of(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        if (!name || !strcmp(handset->name, name)) return handset;
    }
    return NULL;
}

/* The count of differences; -1 after a message. */
static int against(const struct learnt *l, const char *file)
{
    struct image *image;
    int code, differs = -1;
    struct lexicon *lx = cli_sound_lexicon(file, &image, &code);
    if (!lx) return -1;
    const char *name = w.handset ? w.handset : l->recording->handset;
    const struct lex_handset *handset = handset_of(lx, name);
    if (!handset) handset = w.handset ? NULL : handset_of(lx, NULL);
    if (handset) {
        GString *out = g_string_new(NULL);
        differs = (int)learnt_against(l, lx, handset, out);
        printf("\nAgainst %s of %s: %d difference%s\n%s", handset->name, files_shown(file), differs,
               differs == 1 ? "" : "s", out->str);
        g_string_free(out, TRUE);
    } else {
        fprintf(stderr, "%s: %s has no handset%s%s\n", g_get_prgname(), files_shown(file),
                w.handset ? " " : "", w.handset ? w.handset : "");
    }
    image_free(image);
    lexicon_free(lx);
    return differs;
}

static unsigned confirm(const struct learnt *l, const struct recording *again, const char *name)
{
    struct learnt *other = learn(again, l);
    GString *out = g_string_new(NULL);
    unsigned differs = learnt_confirm(l, other, out);
    printf("\nAgain in %s: %u difference%s\n%s", files_shown(name), differs,
           differs == 1 ? "" : "s", out->str);
    g_string_free(out, TRUE);
    learnt_free(other);
    return differs;
}

/* 0; 1: something differs; 2 after a message. */
static int show(const struct recording *r, char **again, int count)
{
    struct learnt *l = learn(r, NULL);
    char *lexicon = learnt_lexicon(l), *report = learnt_report(l);
    int differs = 0, others = 0;
    bool ok = true;
    fputs(report, stdout);
    for (int i = 0; i < count && ok; i++) {
        GError *error = NULL;
        struct recording *second = recording_read(again[i], w.link, w.handset, &error);
        ok = second != NULL;
        if (ok)
            differs += (int)confirm(l, second, again[i]);
        else
            fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
        recording_free(second);
    }
    if (ok && w.lexicon) others = against(l, w.lexicon);
    ok = ok && others >= 0;
    if (ok && w.output) {
        GError *error = NULL;
        ok = files_write(w.output, lexicon, strlen(lexicon), &error);
        if (!ok) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
        g_clear_error(&error);
    } else if (ok) {
        printf("\nA lexicon for it\n\n%s", lexicon);
    }
    if (ok && g_strcmp0(w.output, "-") != 0) check_proposal(lexicon);
    g_free(report);
    g_free(lexicon);
    learnt_free(l);
    return !ok ? 2 : differs || others;
}

static const char description[] =
    "Finds out what a sender that cannot be changed sends: how its frames end, what stands around "
    "them,\nwhat each button sends when it is pressed, held and released, and the steps of each "
    "slider. Prints\nwhat it is sure of and what not, and a lexicon for it.\n\n"
    "FILE is a recording: a trace with bytes (rlx talk or rlx serve with --trace FILE --bytes, or "
    "--record),\nor lines of a time in seconds and bytes in hex, with press NAME, release NAME and "
    "slide NAME between.\nA second FILE confirms the first one. --device records: it asks for one "
    "button at a time.\nExit code 1 where a second recording or the lexicon differs.\n\n"
    "Example:\n  rlx learn --device /dev/ttyUSB0 --baud 9600 --record remote.jsonl\n"
    "  rlx learn remote.jsonl -o remote.lexicon\n";

/* False after a message. */
static bool is_asked_well(int argc, char **argv)
{
    const char *const lexicon[] = {w.lexicon};
    const char *const *files = (const char *const *)argv + 1;
    const unsigned count = argc > 1 ? (unsigned)argc - 1 : 0;
    if (!w.device && argc < 2) {
        fprintf(stderr, "%s: expected a recording, or --device\n", g_get_prgname());
        return false;
    }
    if (w.length && !cli_time("--for", w.length, &w.for_us)) return false;
    return cli_with("--record", w.record != NULL, "--device", w.device) &&
           cli_with("--for", w.length != NULL, "--device", w.device) &&
           cli_with("--packets", w.packets, "--device", w.device) &&
           cli_with("--baud", w.baud != NULL, "--device", w.device) &&
           cli_with("--format", w.format != NULL, "--device", w.device) &&
           cli_can_write("-o", w.output, files, count) &&
           cli_can_write("-o", w.output, lexicon, 1) &&
           cli_can_write("--record", w.record, files, count) &&
           cli_can_write("--record", w.record, lexicon, 1);
}

int verb_learn(int argc, char **argv)
{
    const GOptionEntry entries[] = {
        {"device", 'd', 0, G_OPTION_ARG_STRING, &w.device,
         "listen here: a serial device, tcp:PORT, unix:PATH", "PATH"},
        {"baud", 0, 0, G_OPTION_ARG_STRING, &w.baud, "its rate (default: 9600)", "N"},
        {"format", 0, 0, G_OPTION_ARG_STRING, &w.format, "its bits (default: 8N1)", "8N1"},
        {"packets", 0, 0, G_OPTION_ARG_NONE, &w.packets,
         "packets come, each with its length before it, as from rlx serve", NULL},
        {"for", 0, 0, G_OPTION_ARG_STRING, &w.length, "listen for this time and ask nothing",
         "TIME"},
        {"anywhere", 0, 0, G_OPTION_ARG_NONE, &w.anywhere, "also a TCP port of another machine",
         NULL},
        {"record", 'r', 0, G_OPTION_ARG_FILENAME, &w.record, "keep the recording here", "FILE"},
        {"link", 'l', 0, G_OPTION_ARG_STRING, &w.link, "the link, where a trace has several",
         "NAME"},
        {"handset", 0, 0, G_OPTION_ARG_STRING, &w.handset,
         "the handset, where a trace or a lexicon has several", "NAME"},
        {"lexicon", 'x', 0, G_OPTION_ARG_FILENAME, &w.lexicon,
         "compare with the handset of this lexicon", "FILE"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &w.output, "write the proposed lexicon here",
         "FILE"},
        {0}};
    GError *error = NULL;
    if (!cli_options(&argc, &argv, entries, "[FILE...]", description, -1) ||
        !is_asked_well(argc, argv))
        return 2;
    int first = w.device ? 1 : 2;
    struct recording *r = w.device ? record() : recording_read(argv[1], w.link, w.handset, &error);
    if (error) fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
    g_clear_error(&error);
    if (!r) return 2;
    int code = show(r, argv + first, argc - first);
    recording_free(r);
    return code;
}
