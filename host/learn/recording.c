/* Recordings of a sender: traces with its bytes, and text files of times and bytes.
 * Read whole, each line checked; written as a trace, so that rlx draw takes them, too.
 * It does not know what the bytes mean. */
#include "learn/recording.h"

#include <jansson.h>
#include <string.h>

#include "files/files.h"

#define BYTES_MOST (256u * 1024 * 1024)
#define HEARD_MOST (1024u * 1024) /* bytes of a recording */
#define MARKS_MOST 10000u
#define SPAN_US    UINT64_C(100000000000000)

static const char *const act_words[ACTS] = {"pressed", "released", "slides"};

static void clear_mark(void *p)
{
    g_free(((struct mark *)p)->name);
}

struct recording *recording_new(void)
{
    struct recording *r = g_new0(struct recording, 1);
    r->format = (struct lex_format){8, 1, LEX_PARITY_NONE, false};
    r->bytes = g_array_new(FALSE, FALSE, sizeof(struct heard));
    r->marks = g_array_new(FALSE, FALSE, sizeof(struct mark));
    g_array_set_clear_func(r->marks, clear_mark);
    return r;
}

void recording_free(struct recording *r)
{
    if (!r) return;
    g_free(r->link);
    g_free(r->handset);
    g_array_free(r->bytes, TRUE);
    g_array_free(r->marks, TRUE);
    g_free(r);
}

void recording_hear(struct recording *r, uint64_t from_us, uint64_t to_us, const guint8 *bytes,
                    size_t count, bool packet)
{
    for (size_t i = 0; i < count; i++) {
        uint64_t part = count > 1 ? (to_us - from_us) * i / (count - 1) : 0;
        struct heard one = {from_us + part, bytes[i], packet && !i};
        g_array_append_val(r->bytes, one);
    }
}

void recording_mark(struct recording *r, uint64_t at_us, enum act act, const char *name)
{
    struct mark mark = {at_us, act, g_strdup(name)};
    g_array_append_val(r->marks, mark);
}

/* ---- reading ---- */

struct reading {
    const char *file, *link, *handset;
    unsigned line;
    struct recording *r;
    uint64_t last_us;
    GPtrArray *links; /* json_t *: of the first line of a trace */
    GError **error;
};

static bool refuse(struct reading *in, const char *format, ...) G_GNUC_PRINTF(2, 3);
static bool refuse(struct reading *in, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    g_set_error(in->error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s, line %u: %s",
                files_shown(in->file), in->line, text);
    g_free(text);
    return false;
}

/* "\\x0D" is a byte. The count of bytes; -1: no such text. */
static int bytes_of(const char *text, GByteArray *bytes)
{
    g_byte_array_set_size(bytes, 0);
    for (const char *p = text; *p; p++) {
        guint8 byte = (guint8)*p;
        if (*p == '\\') {
            if (p[1] != 'x' || !g_ascii_isxdigit(p[2]) || !g_ascii_isxdigit(p[3])) return -1;
            byte = (guint8)(g_ascii_xdigit_value(p[2]) << 4 | g_ascii_xdigit_value(p[3]));
            p += 3;
        }
        g_byte_array_append(bytes, &byte, 1);
    }
    return (int)bytes->len;
}

/* A name that was chosen, or else the first one that comes. False: it is another one. */
static bool is_chosen(char **name, const char *wanted, const char *is)
{
    if (!*name && (!wanted || !strcmp(wanted, is))) *name = g_strdup(is);
    return *name && !strcmp(*name, is);
}

static const char *text_of(const json_t *line, const char *member)
{
    const char *text = json_string_value(json_object_get(line, member));
    return text ? text : "";
}

static uint64_t number_of(const json_t *line, const char *member)
{
    json_int_t n = json_integer_value(json_object_get(line, member));
    return n > 0 ? (uint64_t)n : 0;
}

/* What the first line of a trace says of the link that was chosen. */
static void take_link(struct reading *in)
{
    for (unsigned i = 0; i < in->links->len; i++) {
        const json_t *is = in->links->pdata[i];
        if (g_strcmp0(in->r->link, text_of(is, "name")) != 0) continue;
        for (unsigned m = 0; m < LEX_MEDIA; m++)
            if (!strcmp(lex_media[m], text_of(is, "medium"))) in->r->medium = (enum lex_medium)m;
        in->r->baud = (unsigned)MIN(number_of(is, "baud"), 10000000);
        in->r->clock_us = MIN(number_of(is, "clock_us"), SPAN_US);
        lex_format_read(text_of(is, "format"), &in->r->format);
    }
}

static bool take_heard(struct reading *in, const json_t *line, uint64_t us)
{
    const char *link = text_of(line, "name");
    uint64_t lasts = number_of(line, "us");
    if (!in->r->link && !in->link && in->links->len == 0)
        return refuse(in, "expected the line that begins a trace before it");
    bool first = !in->r->link;
    if (!is_chosen(&in->r->link, in->link, link)) {
        if (in->link) return true;
        return refuse(in, "it has the bytes of %s and %s: choose one with --link", in->r->link,
                      link);
    }
    if (first) take_link(in);
    GByteArray *bytes = g_byte_array_new();
    int count = bytes_of(text_of(line, "text"), bytes);
    bool ok = count >= 0 && lasts <= SPAN_US && us + lasts >= in->last_us;
    bool packet = in->r->medium == LEX_RADIO || in->r->medium == LEX_REPORT;
    if (ok) recording_hear(in->r, us, us + lasts, bytes->data, bytes->len, packet);
    if (ok) in->last_us = us + lasts;
    g_byte_array_free(bytes, TRUE);
    return ok || refuse(in, "expected bytes in `text`, like \"feed 60\\\\x0D\", behind those "
                            "before them");
}

/* "feed pressed", "glow 40" */
static bool take_use(struct reading *in, const json_t *line, uint64_t us)
{
    char **words = g_strsplit(text_of(line, "text"), " ", 2);
    bool ok = true;
    if (!words[0] || !words[1])
        ok = refuse(in, "expected a button or slider, and what was done: \"feed pressed\"");
    else if (!is_chosen(&in->r->handset, in->handset, text_of(line, "name"))) {
        if (!in->handset)
            ok = refuse(in, "it has the handsets %s and %s: choose one with --handset",
                        in->r->handset, text_of(line, "name"));
    } else {
        enum act act = ACT_SLID;
        for (unsigned i = 0; i < ACTS; i++)
            if (!strcmp(words[1], act_words[i])) act = (enum act)i;
        recording_mark(in->r, us, act, words[0]);
    }
    g_strfreev(words);
    return ok;
}

static bool take_json(struct reading *in, const char *text, size_t length)
{
    json_t *line = json_loadb(text, length, 0, NULL);
    const json_t *at = json_object_get(line, "t_us");
    const char *what = text_of(line, "what");
    uint64_t us = json_is_integer(at) ? (uint64_t)json_integer_value(at) : UINT64_MAX;
    bool ok = us <= SPAN_US || refuse(in, "expected a line of a trace, like {\"t_us\":54374,"
                                          "\"what\":\"heard\",\"name\":\"skiff\",\"text\":"
                                          "\"gate open\\\\x0D\",\"us\":9375}");
    if (ok && !strcmp(what, "begin")) {
        size_t i;
        json_t *is;
        json_array_foreach(json_object_get(line, "links"), i, is)
            g_ptr_array_add(in->links, json_incref(is));
    } else if (ok && !strcmp(what, "heard")) {
        ok = take_heard(in, line, us);
    } else if (ok && !strcmp(what, "noise")) {
        in->r->noise += !g_strcmp0(in->r->link, text_of(line, "name"));
    } else if (ok && !strcmp(what, "handset")) {
        ok = take_use(in, line, us);
    }
    if (line) json_decref(line);
    return ok;
}

/* "serial 9600 [8N1]", "radio": what the text file is of. */
static bool take_head(struct reading *in, char **words)
{
    unsigned medium = 0;
    guint64 baud = 0;
    while (medium < LEX_MEDIA && strcmp(lex_media[medium], words[0]) != 0) medium++;
    if (medium == LEX_MEDIA) return false;
    in->r->medium = (enum lex_medium)medium;
    if (!words[1]) return true;
    if (!g_ascii_string_to_unsigned(words[1], 10, 50, 10000000, &baud, NULL)) return false;
    in->r->baud = (unsigned)baud;
    if (!words[2]) return true;
    char *format = g_strjoinv(" ", words + 2);
    bool ok = lex_format_read(format, &in->r->format);
    g_free(format);
    return ok;
}

static bool is_byte(const char *word, guint8 *byte)
{
    guint64 value = 0;
    if (g_str_has_prefix(word, "0x") || g_str_has_prefix(word, "0X")) word += 2;
    bool ok = strlen(word) == 2 && g_ascii_string_to_unsigned(word, 16, 0, 255, &value, NULL);
    *byte = (guint8)value;
    return ok;
}

/* "press feed" */
static bool take_act(struct reading *in, uint64_t us, char **words)
{
    static const char *const acts[ACTS] = {"press", "release", "slide"};
    for (unsigned i = 0; i < ACTS; i++)
        if (!strcmp(words[0], acts[i]) && words[1] && !words[2]) {
            recording_mark(in->r, us, (enum act)i, words[1]);
            return true;
        }
    return false;
}

static bool take_words(struct reading *in, char **words)
{
    char *end = NULL;
    if (!words[0] || *words[0] == '#') return true;
    if (g_ascii_isalpha(*words[0])) {
        return take_head(in, words) ||
               refuse(in, "expected a time, or what it is of: serial 9600 8N1");
    }
    double seconds = g_ascii_strtod(words[0], &end);
    bool ok = end != words[0] && !*end && seconds >= 0 && seconds <= SPAN_US / 1e6;
    uint64_t us = ok ? (uint64_t)(seconds * 1e6 + 0.5) : 0;
    if (!ok || !words[1]) return refuse(in, "expected seconds and bytes: 0.025 67 6C 6F 0D");
    if (us < in->last_us) return refuse(in, "%s s is before the line above", words[0]);
    in->last_us = us;
    if (take_act(in, us, words + 1)) return true;
    bool packet = in->r->medium == LEX_RADIO || in->r->medium == LEX_REPORT;
    for (unsigned i = 1; words[i]; i++) {
        guint8 byte;
        if (!is_byte(words[i], &byte))
            return refuse(in, "'%s' is no byte of two hex digits, and no press, release or slide",
                          words[i]);
        recording_hear(in->r, us, us, &byte, 1, packet && i == 1);
    }
    return true;
}

static bool take_plain(struct reading *in, const char *text, size_t length)
{
    char *line = g_strndup(text, length);
    g_strdelimit(line, "\t,;\r", ' ');
    char **all = g_strsplit(line, " ", -1), **words = g_new0(char *, g_strv_length(all) + 1);
    for (unsigned i = 0, n = 0; all[i]; i++)
        if (*all[i]) words[n++] = all[i];
    bool ok = take_words(in, words);
    g_free(words);
    g_strfreev(all);
    g_free(line);
    return ok;
}

static bool take_lines(struct reading *in, const char *text, size_t size)
{
    bool ok = true;
    for (const char *at = text; ok && at < text + size;) {
        const char *end = memchr(at, '\n', (size_t)(text + size - at));
        size_t length = (size_t)((end ? end : text + size) - at);
        in->line++;
        if (length) ok = *text == '{' ? take_json(in, at, length) : take_plain(in, at, length);
        if (ok && in->r->bytes->len > HEARD_MOST)
            ok = refuse(in, "more than %u bytes, which is the most: record less", HEARD_MOST);
        if (ok && in->r->marks->len > MARKS_MOST)
            ok = refuse(in, "more than %u presses and moves, which is the most", MARKS_MOST);
        at += length + 1;
    }
    return ok;
}

static void free_json(void *json)
{
    json_decref(json);
}

struct recording *recording_read(const char *file, const char *link, const char *handset,
                                 GError **error)
{
    char *text;
    size_t size;
    if (!files_read(file, BYTES_MOST, &text, &size, error)) return NULL;
    struct reading in = {file, link, handset, 0, recording_new(), 0, NULL, error};
    in.links = g_ptr_array_new_with_free_func(free_json);
    bool ok = size <= BYTES_MOST ? take_lines(&in, text, size)
                                 : refuse(&in, "more than %u bytes, which is the most", BYTES_MOST);
    if (ok && !in.r->bytes->len) {
        ok = false;
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "%s: no bytes%s%s are in it: record them with rlx talk --trace FILE --bytes, "
                    "rlx serve --trace FILE --bytes, or rlx learn --device",
                    files_shown(file), link ? " of " : "", link ? link : "");
    }
    g_free(text);
    g_ptr_array_free(in.links, TRUE);
    if (ok) return in.r;
    recording_free(in.r);
    return NULL;
}

/* ---- writing ---- */

static void put(GString *out, json_t *line)
{
    char *text = json_dumps(line, JSON_COMPACT);
    g_string_append(out, text);
    g_string_append_c(out, '\n');
    free(text);
    json_decref(line);
}

static void put_mark(GString *out, const struct recording *r, const struct mark *mark)
{
    char *text = g_strdup_printf("%s %s", mark->name, act_words[mark->act]);
    put(out, json_pack("{s:I, s:s, s:s, s:s}", "t_us", (json_int_t)mark->at_us, "what", "handset",
                       "name", r->handset, "text", text));
    g_free(text);
}

/* The bytes that have the same time, or are of one packet. */
static unsigned put_bytes(GString *out, const struct recording *r, unsigned from)
{
    const struct heard *all = (const struct heard *)r->bytes->data;
    GString *bytes = g_string_new(NULL);
    unsigned n = from;
    do g_string_append_c(bytes, (char)all[n++].byte);
    while (n < r->bytes->len && all[n].at_us == all[from].at_us && !all[n].packet);
    char *text = lex_visible(bytes->str, bytes->len);
    put(out, json_pack("{s:I, s:s, s:s, s:s, s:i}", "t_us", (json_int_t)all[from].at_us, "what",
                       "heard", "name", r->link, "text", text, "us", 0));
    g_string_free(bytes, TRUE);
    g_free(text);
    return n;
}

bool recording_write(const struct recording *r, const char *file, GError **error)
{
    GString *out = g_string_new(NULL);
    char format[LEX_FORMAT_TEXT];
    lex_format_text(&r->format, format);
    json_t *link =
        json_pack("{s:s, s:s, s:i, s:s, s:I}", "name", r->link, "medium", lex_media[r->medium],
                  "baud", (int)r->baud, "format", format, "clock_us", (json_int_t)r->clock_us);
    put(out, json_pack("{s:i, s:s, s:s, s:[o], s:[], s:[]}", "t_us", 0, "what", "begin", "lexicon",
                       "", "links", link, "outputs", "inputs"));
    unsigned m = 0;
    for (unsigned i = 0; i < r->bytes->len || m < r->marks->len;) {
        const struct mark *mark =
            m < r->marks->len ? &g_array_index(r->marks, struct mark, m) : NULL;
        if (mark &&
            (i >= r->bytes->len || mark->at_us <= g_array_index(r->bytes, struct heard, i).at_us))
            put_mark(out, r, mark), m++;
        else
            i = put_bytes(out, r, i);
    }
    bool ok = files_write(file, out->str, out->len, error);
    g_string_free(out, TRUE);
    return ok;
}
