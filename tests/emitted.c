/* The C that is emitted for random lexicons of every shape, compiled with a library that has their
 * features only, does to the byte what the full library does with their tables. Some have a modem:
 * what it says to one it says to both.
 * emitted CC ROOT FOLDER [FIRST COUNT [FAST]]: which of the lexicons, counted from 0; FAST compiles
 * nine in ten. */
#include <dlfcn.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/write/emit.h"
#include "emitted/runner.h"
#include "lines.h"
#include "world/modem/modem.h"
#include "rig.h"

static const char *cc, *fast, *root, *folder;
static char *text_in_hand;

/* The next lexicon without an error. */
static struct rig *next_rig(void)
{
    for (;;) {
        g_free(text_in_hand);
        text_in_hand = lines_shape();
        if (!lines_chance(4)) { /* with a modem */
            char *with = g_strconcat(text_in_hand, "link modem sms open\n", NULL);
            g_free(text_in_hand);
            text_in_hand = with;
        }
        struct lexicon *lx =
            lexicon_read_text("shape", g_strdup(text_in_hand), strlen(text_in_hand));
        struct image *image = lexicon_has(lx, false) ? NULL : image_build(lx);
        if (image) lexicon_check(lx, image);
        bool sound = image && !lexicon_has(lx, false);
        if (sound && !lexicon_emit(lx, image, folder, NULL)) exit(2);
        image_free(image);
        if (sound) return rig_of(lx);
        lexicon_free(lx);
    }
}

/* ---- handlers ---- */

/* `int shape_h0(struct shape *shape, uint8_t n);` becomes one that keeps what it got. */
static void add_stub(GString *out, const char *name, char **arguments)
{
    bool numbers = true;
    unsigned told = 0;
    g_string_append_printf(out, "int %s(struct shape *shape", name);
    for (char **a = arguments; *a; a++) g_string_append_printf(out, ", %s", *a);
    g_string_append(out, ")\n{\n    (void)shape;\n    state->calls++;\n");
    for (unsigned i = 0; arguments[i]; i++) {
        char *argument = strrchr(arguments[i], ' ') + 1;
        bool query = *argument == '*' && !g_str_has_prefix(arguments[i], "const");
        bool other = *argument == '*' || g_str_has_suffix(argument, "_length") ||
                     g_str_has_suffix(argument, "_count");
        if (*argument == '*') argument++;
        if (query) {
            g_string_append_printf(out, "    *%s = (__typeof__(*%s))state->tells[%u];\n", argument,
                                   argument, told++);
        } else if (other) {
            g_string_append_printf(out, "    (void)%s;\n", argument);
            numbers = false;
        } else {
            g_string_append_printf(out, "    state->value[%u] = (int32_t)%s;\n", i, argument);
        }
        numbers = numbers && !query;
    }
    g_string_append_printf(out, "    state->n_values = %u;\n    return state->returns;\n}\n",
                           numbers ? g_strv_length(arguments) : 0);
}

static bool write_stubs(void)
{
    char *header = NULL, *path = g_build_filename(folder, "shape.h", NULL);
    char *to = g_build_filename(folder, "stubs.h", NULL);
    if (!g_file_get_contents(path, &header, NULL, NULL)) return false;
    GString *out = g_string_new(NULL);
    GRegex *notes = g_regex_new(" /\\*[^*]*\\*/(?=[,)])", 0, 0, NULL);
    char *plain = g_regex_replace_literal(notes, header, -1, 0, "", 0, NULL);
    g_regex_unref(notes);
    g_free(header);
    GString *wrapped = g_string_new(plain);
    g_free(plain);
    g_string_replace(wrapped, ",\n    ", ", ", 0);
    header = g_string_free(wrapped, FALSE);
    GRegex *prototype =
        g_regex_new("^int (shape_[a-z0-9_]+)\\(struct shape \\*shape(?:, ([^;]*))?\\);$",
                    G_REGEX_MULTILINE, 0, NULL);
    GMatchInfo *match = NULL;
    for (g_regex_match(prototype, header, 0, &match); g_match_info_matches(match);
         g_match_info_next(match, NULL)) {
        char *name = g_match_info_fetch(match, 1), *list = g_match_info_fetch(match, 2);
        char **arguments = g_strsplit(list ? list : "", ", ", -1);
        if (strcmp(name, "shape_init") != 0) add_stub(out, name, arguments);
        g_strfreev(arguments);
        g_free(name), g_free(list);
    }
    bool ok = g_file_set_contents(to, out->str, (gssize)out->len, NULL);
    g_match_info_free(match);
    g_regex_unref(prototype);
    g_string_free(out, TRUE);
    g_free(header), g_free(path), g_free(to);
    return ok;
}

/* The shared object; NULL: it does not compile. */
static void *compile(unsigned number)
{
    char *object = g_strdup_printf("%s/shape%u.so", folder, number);
    char *command = g_strdup_printf(
        "%s -std=gnu11 -O0 -w -shared -fPIC -Wl,-Bsymbolic -I%s -I%s/include -I%s/ports "
        "-I%s/tests "
        "-DRLX_CONFIG='\"shape_config.h\"' -DSHAPE='\"shape.h\"' -DSTUBS='\"stubs.h\"' "
        "%s/src/rlx.c %s/shape.c %s/tests/emitted/runner.c %s/ports/sim/board.c -o %s",
        number % 10 ? fast : cc, folder, root, root, root, root, folder, root, root, object);
    void *it = system(command) == 0 ? dlopen(object, RTLD_NOW | RTLD_LOCAL) : NULL;
    if (!it && dlerror()) fprintf(stderr, "%s\n", command);
    remove(object);
    g_free(object), g_free(command);
    return it;
}

/* ---- both ---- */

struct pair {
    struct rig *rig;
    const struct emitted *calls;
    struct emitted_state *state;
    struct sms_modem *modem; /* NULL: there is none */
    struct world *world;
    struct network *network;
    unsigned link;     /* of the modem */
    gsize heard;       /* what it heard of what was sent since same() */
    uint32_t start_ms; /* of its world */
};

/* ---- the modem ---- */

#define OWN_NUMBER "+15550170"

static void modem_says_byte(void *user, uint8_t byte)
{
    struct pair *p = user;
    char one = (char)byte;
    sim_board_in(&p->rig->board, (struct sim_event){SIM_RECEIVED, (uint8_t)p->link, 0, byte});
    p->calls->feed(p->link, EMITTED_BYTES, &one, 1);
}

static void modem_begin(struct pair *p, unsigned number)
{
    const GPtrArray *links = p->rig->lx->links;
    p->start_ms = p->rig->now_ms;
    for (unsigned i = 0; i < links->len; i++) {
        if (!lex_drives_modem(links->pdata[i])) continue;
        p->link = i;
        p->world = world_new();
        p->network = network_new(p->world, number, NULL, NULL);
        p->modem = modem_new(p->world, p->network, number, modem_says_byte, NULL, p);
        network_join(p->network, p->modem, OWN_NUMBER);
        modem_manner(p->modem)->rubbish = lines_chance(3) ? 0 : 300000;
    }
}

/* What was sent reaches it, and its time goes by. */
static void modem_pass(struct pair *p)
{
    GString *sent = p->modem ? p->rig->sent[p->link] : NULL;
    if (!sent) return;
    while (p->heard < sent->len) modem_hear(p->modem, (uint8_t)sent->str[p->heard++]);
    while (world_step(p->world, (p->rig->now_ms - p->start_ms) * UINT64_C(1000))) {}
}

static void modem_end(struct pair *p)
{
    if (!p->modem) return;
    modem_free(p->modem);
    network_free(p->network);
    world_free(p->world);
}

/* ---- what they do ---- */

static bool same_bytes(const char *what, const char *full, gsize count, const char *own, gsize n)
{
    if (count == n && !memcmp(full, own, n)) return true;
    char *a = g_strescape(full, NULL), *b = g_strndup(own, n);
    printf("%s of the full library:\n%s\nof its own:\n%s\n", what, a, b);
    g_free(a), g_free(b);
    return false;
}

/* Whether all that was done and told so far is the same; it is forgotten then. */
static bool same(struct pair *p)
{
    bool ok = same_bytes("pins", p->rig->pins->str, p->rig->pins->len, p->state->pins,
                         strlen(p->state->pins));
    for (unsigned i = 0; i < p->rig->lx->links->len; i++) {
        GString *sent = p->rig->sent[i];
        if (p->modem && i == p->link) p->heard = 0;
        ok = ok &&
             same_bytes("bytes", sent->str, sent->len, p->state->sent[i], p->state->sent_count[i]);
        g_string_truncate(sent, 0);
        p->state->sent_count[i] = 0;
    }
    if (p->rig->calls != p->state->calls)
        ok = false, printf("calls: %u, %u\n", p->rig->calls, p->state->calls);
    for (unsigned i = 0; ok && p->rig->calls && i < p->state->n_values; i++)
        if (p->rig->value[i] != p->state->value[i]) ok = false, printf("another value\n");
    g_string_truncate(p->rig->pins, 0);
    *p->state->pins = 0;
    p->rig->calls = p->state->calls = 0;
    p->state->n_values = 0;
    return ok;
}

/* Both are polled at the same times: whenever the full one asks for it. */
static bool pass(struct pair *p, uint32_t ms)
{
    uint32_t end = p->rig->now_ms + ms;
    for (;;) {
        uint32_t from = p->rig->now_ms, wait = rig_run(p->rig), own = wait;
        while (from != p->rig->now_ms) own = p->calls->poll(from++);
        if (own != wait) {
            printf("waits: %u, %u\n", wait, own);
            same(p);
            return false;
        }
        modem_pass(p);
        if ((int32_t)(end - p->rig->now_ms) <= 0) return same(p);
        uint32_t most = p->modem ? 20 : UINT32_MAX;
        p->rig->now_ms += MIN(MIN(wait > 1 ? wait - 1 : 0, end - p->rig->now_ms), most);
    }
}

static void feed(struct pair *p, unsigned link, const char *bytes, unsigned count)
{
    const struct lex_link *l = p->rig->lx->links->pdata[link];
    char report[RLX_REPORT] = {0};
    int how = l->frame == LEX_FRAME_PACKET    ? EMITTED_PACKET
              : l->frame == LEX_FRAME_REPORT  ? EMITTED_REPORT
              : l->frame == LEX_FRAME_MESSAGE ? EMITTED_MESSAGE
                                              : EMITTED_BYTES;
    if (!count || (p->modem && link == p->link)) return; /* only its modem speaks there */
    rig_feed(p->rig, link, bytes, count);
    if (how == EMITTED_REPORT) {
        memcpy(report, bytes, MIN(count, RLX_REPORT));
        p->calls->feed(link, how, report, RLX_REPORT);
    } else {
        p->calls->feed(link, how, bytes, count);
    }
}

/* A line as the link's sender says it, in its envelope or not. */
static void say(struct pair *p, unsigned link, unsigned *tag)
{
    const struct lex_link *l = p->rig->lx->links->pdata[link];
    char *line = lines_said(p->rig->lx);
    GString *frame = g_string_new(NULL);
    if (l->address >= 0) g_string_append_printf(frame, l->senders ? "@%d/1 " : "@%d ", l->address);
    if (l->tags && lines_chance(6)) g_string_append_printf(frame, "#%u ", *tag += lines_chance(2));
    g_string_append(frame, line);
    if (l->check && lines_chance(6)) {
        uint16_t crc = 0xFFFF;
        for (gsize i = 0; i < frame->len; i++)
            for (int bit = 7; bit >= 0; bit--)
                crc = (uint16_t)(((crc >> 15 ^ frame->str[i] >> bit) & 1) ? crc << 1 ^ 0x1021
                                                                          : crc << 1);
        g_string_append_c(frame, '*');
        for (int n = 12; n >= 0; n -= 4) g_string_append_c(frame, (char)('@' + (crc >> n & 15)));
    }
    if (l->frame == LEX_FRAME_LINE || l->frame == LEX_FRAME_REPORT) g_string_append_c(frame, '\r');
    if (l->frame == LEX_FRAME_ENDED) g_string_append_c(frame, l->end);
    if (frame->len <= 60) feed(p, link, frame->str, (unsigned)frame->len);
    g_string_free(frame, TRUE);
    g_free(line);
}

static void happen(struct pair *p, int what, unsigned which, unsigned value)
{
    p->calls->happen(what, which, value);
    if (what == EMITTED_PIN)
        sim_board_in(&p->rig->board, (struct sim_event){SIM_PIN_IN, (uint8_t)which, 0, value});
    if (what == EMITTED_FAULT) rlx_link_fault(&p->rig->link[which]);
    if (what == EMITTED_EVENT) rlx_event(&p->rig->device, (uint8_t)which, (uint8_t)value);
    if (what == EMITTED_NOTE) rlx_note(&p->rig->device, "look here");
}

/* Anything that can happen to a device. */
static void anything(struct pair *p, unsigned *tag)
{
    char bytes[40];
    unsigned link = lines_chance((unsigned)p->rig->lx->links->len), n = lines_chance(sizeof bytes);
    p->rig->returns = p->state->returns = (int)lines_chance(4) ? 0 : -(int)lines_chance(45);
    p->rig->asked = true;
    for (unsigned i = 0; i < 15; i++)
        p->rig->tells[i] = p->state->tells[i] = (int32_t)lines_chance(200);
    if (p->modem && !lines_chance(3)) {
        char *line = lines_random(p->rig->lx);
        network_write(p->network, lines_chance(3) ? "+15550142" : "Bank", OWN_NUMBER, line);
        g_free(line);
        return;
    }
    switch (lines_chance(12)) {
    case 0:
        for (unsigned i = 0; i < n; i++) bytes[i] = (char)lines_chance(256);
        feed(p, link, bytes, n);
        break;
    case 1: feed(p, link, "aAAAbAB:\r", 1 + lines_chance(9)); break;
    case 2: happen(p, EMITTED_EVENT, lines_chance(4), lines_chance(2)); break;
    case 3: happen(p, EMITTED_NOTE, 0, 0); break;
    case 4: happen(p, EMITTED_FAULT, link, 0); break;
    case 5: happen(p, EMITTED_PIN, 2 + lines_chance(12), lines_chance(2)); break;
    case 6: feed(p, link, "halt\r", 5); break;
    default: say(p, link, tag);
    }
}

static bool try_one(unsigned number)
{
    struct rig *rig = next_rig();
    struct pair p = {.rig = rig, .state = g_new0(struct emitted_state, 1)};
    void *object = write_stubs() ? compile(number) : NULL;
    unsigned tag = 1;
    bool ok = object != NULL;
    if (ok) {
        p.calls = dlsym(object, "emitted_calls");
        rig->nv_area = (uint16_t)lex_nv_area(rig->lx);
        rig->board.nv_page = rig->lx->nv_page;
        uint32_t start = lines_chance(2) ? UINT32_MAX - 20000 : 0;
        ok = rig_start(rig, start) == 0 && p.calls->power(p.state, start) == 0;
        modem_begin(&p, number);
        ok = ok && pass(&p, 1);
        for (unsigned i = 0; ok && i < 150; i++) {
            anything(&p, &tag);
            ok = pass(&p, lines_chance(4) ? lines_chance(50) : lines_chance(3000));
        }
        modem_end(&p);
        dlclose(object);
    }
    if (!ok) printf("FAIL lexicon %u:\n%s\n", number, text_in_hand);
    g_free(p.state);
    rig_free(rig);
    return ok;
}

int main(int argc, char **argv)
{
    unsigned first = argc > 4 ? (unsigned)atoi(argv[4]) : 0,
             count = argc > 5 ? (unsigned)atoi(argv[5]) : 20;
    unsigned failed = 0;
    if (argc < 4) return 2;
    cc = argv[1], root = argv[2], folder = argv[3];
    fast = argc > 6 ? argv[6] : cc;
    g_mkdir_with_parents(folder, 0777);
    for (unsigned i = first; i < first + count && failed < 5; i++) {
        lines_seed = 1000003u * (i + 1);
        failed += !try_one(i);
    }
    printf("%u lexicons, %u failed\n", count, failed);
    g_free(text_in_hand);
    return failed ? 1 : 0;
}
