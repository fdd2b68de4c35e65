/* Puts the two files of a sender together: the retry client and the parts that any sender has, with
 * the lexicon's constants in them, and what is made for each command.
 * What a link does not need is folded away.
 * It knows nothing of slots and answers. */
#include "sender/sender.h"

#include <string.h>

#include "bundle/fold.h"
#include "bundle/sources.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/names.h"
#include "lexicon/write/emit.h"
#include "rlx/def/replies.h"
#include "rlx/def/errors.h"
#include "rlx/image.h"
#include "rlx/wire.h"
#include "sender/sender_parts.h"

/* Where the client's header is cut: the struct is for NAME_LINK.h, what is behind it for
 * NAME_LINK.c. */
#define CLIENT "/* ---- the client ---- */"
#define CALLS  "/* ---- calls ---- */"

#define CLIENT_MOST 200 /* bytes of a command that the client takes */

/* ---- constants of the link ---- */

static void set(GHashTable *tokens, const char *name, char *text)
{
    g_hash_table_insert(tokens, g_strdup(name), text);
}

static void set_number(GHashTable *tokens, const char *name, unsigned number)
{
    set(tokens, name, g_strdup_printf("%u", number));
}

static char *character(char c)
{
    return g_strdup_printf("%d", (guchar)c);
}

static bool comes_whole(const struct lex_link *link)
{
    return lex_packet_bytes(link) && !lex_framing_of(link)->piece;
}

unsigned sender_frame_bytes(const struct lex_link *link)
{
    unsigned bytes = link->layout ? layout_most(link, true) : link->length;
    return comes_whole(link) && !link->layout
               ? 0
               : CLAMP(MAX(MAX(link->reply, link->event), bytes), 64, 255);
}

/* Commands are as long as the device's frames, and the client, take them. */
unsigned sender_command_bytes(const struct sender *s)
{
    unsigned around = lex_envelope_bytes(s->link), most = lex_frame_bytes(s->link);
    const struct lex_setting *code = s->link->code ? lexicon_setting(s->lx, s->link->code) : NULL;
    unsigned all =
        MAX(s->longest, handset_longest(s)) + (code ? (unsigned)code->slot->high + 1 : 0);
    unsigned longest = lex_is_keyed(s->link) ? all + 2 : MIN(all, most - MIN(around, most));
    return CLAMP(longest, 16, CLIENT_MOST);
}

static bool has_confirmed(const struct sender *s)
{
    bool any = false;
    for (unsigned i = 0; i < s->lx->events->len; i++) {
        const struct lex_event *event = s->lx->events->pdata[i];
        any |= event->confirmed && sender_has_event(s, event);
    }
    return any && !lex_is_keyed(s->link);
}

static void set_framing(const struct sender *s, GHashTable *tokens)
{
    const struct lex_link *link = s->link;
    const struct lex_framing *framing = lex_framing_of(link);
    bool keyed = lex_is_keyed(link), whole = comes_whole(link);
    bool padded = !whole && link->frame == LEX_FRAME_FIXED, ended = link->frame == LEX_FRAME_ENDED;
    set_number(tokens, "RLX_SENDER_WHOLE", whole);
    set_number(tokens, "RLX_SENDER_KEYED", keyed);
    set_number(tokens, "RLX_SENDER_PADDED", padded);
    set_number(tokens, "RLX_SENDER_GAP_MS",
               whole || framing->lines || keyed || ended ? 0
               : link->layout && link->gap               ? link->gap + 100
                                                         : link->gap);
    set_number(tokens, "RLX_SENDER_FILLED", link->length);
    set_number(tokens, "RLX_CLIENT_PIECE", framing->piece);
    set(tokens, "RLX_CLIENT_PAD", link->length ? character(link->pad) : g_strdup("' '"));
    if (ended) set(tokens, "RLX_CLIENT_END", character(link->end));
    if (framing->lines) set(tokens, "RLX_CLIENT_END", g_strdup("'\\r'"));
    set_number(tokens, "RLX_SENDER_LEAD", keyed && link->lead ? 1 : 0);
    if (keyed && link->lead) set(tokens, "RLX_SENDER_LEAD_CHARACTER", character(link->lead));
    set(tokens, "RLX_SENDER_IS_END",
        link->frame == LEX_FRAME_STUFFED ? g_strdup("c == 0x7E")
        : link->frame == LEX_FRAME_COBS  ? g_strdup("!c")
        : ended                          ? g_strdup_printf("c == %d", (guchar)link->end)
        : keyed || framing->lines        ? g_strdup("c == '\\r' || c == '\\n' || !c")
                                         : g_strdup("(void)c, false"));
}

static void set_layout(const struct sender *s, GHashTable *tokens)
{
    const struct lex_link *link = s->link;
    const struct lex_layout *layout = link->layout;
    unsigned longest = 1, number = 0;
    for (unsigned i = 0; layout && i < layout->rows->len; i++) {
        const struct lex_packed *row = layout->rows->pdata[i];
        if (!row->event)
            longest = MAX(longest, (layout_bits(layout->frame) + layout_bits(row->fields)) / 8);
    }
    for (unsigned i = 0; layout && i < layout->frame->len; i++) {
        const struct lex_field *field = layout->frame->pdata[i];
        if (field->what == RLX_FLD_NUMBER) number = field->bits;
    }
    set_number(tokens, "RLX_SENDER_BYTES", layout != NULL);
    set_number(tokens, "RLX_SENDER_STUFFED", layout && link->frame == LEX_FRAME_STUFFED);
    set_number(tokens, "RLX_SENDER_COBS", layout && link->frame == LEX_FRAME_COBS);
    set_number(tokens, "RLX_SENDER_LONGEST", longest);
    set_number(tokens, "RLX_SENDER_WRAPPED", 2 * longest + 2);
    set_number(tokens, "RLX_SENDER_TOLD", 128);
    set(tokens, "RLX_SENDER_NUMBERS",
        g_strdup_printf("0x%Xu", (unsigned)((UINT64_C(1) << number) - 1)));
    set_number(tokens, "RLX_SENDER_SILENCE_MS", link->frame == LEX_FRAME_GAP ? link->gap + 1 : 0);
    set(tokens, "RLX_SENDER_BYTE_US",
        g_strdup_printf("%uu", link->baud
                                   ? (lex_format_bits(&link->format) * 1000000u + link->baud - 1) /
                                         link->baud
                                   : 0));
}

static void set_errors(const struct sender *s, GHashTable *tokens)
{
    GString *names = g_string_new("ROM("), *reasons = g_string_new("ROM(");
    unsigned count = 0;
#define NAME(number, id, name, sentence)                                              \
    if (++count != (number)) g_error("the errors' numbers have a hole before " name); \
    g_string_append_printf(names, "%s\"%s\\0\"", count > 1 ? " " : "", name);
    RLX_REPLY_ERRORS(NAME)
#undef NAME
    for (unsigned i = 0; i < s->lx->reasons->len; i++)
        g_string_append_printf(reasons, "%s\"%s\\0\"", i ? " " : "",
                               (char *)s->lx->reasons->pdata[i]);
    set_number(tokens, "RLX_SENDER_ERRORS", count);
    set_number(tokens, "RLX_SENDER_REASONS", s->lx->reasons->len);
    set_number(tokens, "RLX_SENDER_FIRST_REASON", RLX_ERR_REASON);
    set(tokens, "RLX_SENDER_ERROR_NAMES", g_string_free(g_string_append_c(names, ')'), FALSE));
    set(tokens, "RLX_SENDER_REASON_NAMES", g_string_free(g_string_append_c(reasons, ')'), FALSE));
}

/* Which sender has each key, and what each code covers besides. */
static void set_seal(const struct sender *s, GHashTable *tokens)
{
    GString *senders = g_string_new("{");
    GPtrArray *keys = lex_keys_of(s->lx, s->link);
    char *context = lex_seal_context(s->lx, s->link);
    for (unsigned i = 0; i < keys->len; i++)
        g_string_append_printf(senders, "%s%u", i ? ", " : "",
                               ((struct lex_seal_key *)keys->pdata[i])->sender);
    set(tokens, "RLX_SENDER_KEY_SENDERS", g_string_free(g_string_append_c(senders, '}'), FALSE));
    set_number(tokens, "RLX_SENDER_KEYS", keys->len);
    set(tokens, "RLX_TXT_READY", g_strdup("\"" RLX_TXT_READY "\""));
    set(tokens, "RLX_SENDER_CONTEXT", g_strdup_printf("\"%s\"", context));
    set(tokens, "RLX_SENDER_HALT_SEALED", g_strdup(s->link->seal_halt ? "true" : "false"));
    g_free(context);
    g_ptr_array_free(keys, TRUE);
}

static GHashTable *tokens_of(const struct sender *s)
{
    const struct lex_link *link = s->link;
    GHashTable *tokens = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    bool sourced = link->senders > 0, addressed = link->address >= 0;
    set_framing(s, tokens);
    set_layout(s, tokens);
    set_errors(s, tokens);
    set_number(tokens, "RLX_CLIENT_BYTES", sender_command_bytes(s));
    unsigned frame =
        sender_command_bytes(s) + lex_envelope_bytes(link) + lex_framing_of(link)->piece + 1;
    set_number(tokens, "RLX_CLIENT_PACKET", MIN(MAX(frame, link->length), 255));
    set_number(tokens, "RLX_CLIENT_NO_ADDRESS", !addressed);
    set_number(tokens, "RLX_CLIENT_NO_SOURCE", !sourced);
    set_number(tokens, "RLX_CLIENT_NO_TAGS", !link->tags);
    set_number(tokens, "RLX_CLIENT_SEAL", link->seal != LEX_DEMAND_OFF);
    set_seal(s, tokens);
    set_number(tokens, "RLX_CLIENT_CHECK", link->check != LEX_DEMAND_OFF);
    set_number(tokens, "RLX_SENDER_ADDRESS", (unsigned)MAX(link->address, 0));
    char *arguments = sender_init_arguments(s);
    set(tokens, "RLX_SENDER_SOURCE",
        g_strdup(link->seal ? "key_senders[key - 1]"
                 : sourced  ? "source"
                            : "0"));
    set(tokens, "RLX_SENDER_START", g_strdup(link->tags ? "start" : "0"));
    set(tokens, "RLX_SENDER_INIT", g_strdup_printf("struct %s *s%s", s->prefix, arguments));
    g_free(arguments);
    set(tokens, "RLX_SENDER_SILENT", g_strdup(!sender_is_answered(link) ? "true" : "false"));
    set_number(tokens, "RLX_SENDER_WINDOW_MS", link->window);
    set_number(tokens, "RLX_SENDER_CONFIRMS", has_confirmed(s));
    if (!sender_repeats(link)) set_number(tokens, "RLX_SENDER_TRIES", 1);
    set_number(tokens, "RLX_SENDER_CODED", link->code != NULL);
    set_number(tokens, "RLX_SENDER_FRAME", sender_frame_bytes(link));
    return tokens;
}

char *sender_defines(struct sender *s)
{
    const char *u = s->upper;
    if (!sender_repeats(s->link))
        return g_strdup_printf(
            "/* How long an answer may take, in ms, 1..60000. */\n#ifndef %s_PAUSE_MS\n"
            "#define %s_PAUSE_MS %u\n#endif\n\n",
            u, u, sender_pause_ms(s->link));
    return g_strdup_printf(
        "/* How often a command is sent, 1..20, and the pause before the second time, 1..10000 ms; "
        "each\n"
        " * further one is longer by as much. All together are at most %u ms. */\n"
        "#ifndef %s_TRIES\n#define %s_TRIES %u\n#endif\n#ifndef %s_PAUSE_MS\n#define %s_PAUSE_MS "
        "%u\n#endif\n\n",
        s->link->window / 2, u, u, sender_tries(s->link), u, u, sender_pause_ms(s->link));
}

/* ---- the parts, with these names and constants ---- */

/* "rlx_client" is nursery_skiff_client, RLX_SENDER_DONE NURSERY_SKIFF_DONE. */
static void put_name(const struct sender *s, GHashTable *tokens, const char *name, GString *out)
{
    const char *text = g_hash_table_lookup(tokens, name);
    bool small = g_str_has_prefix(name, "rlx_"), large = g_str_has_prefix(name, "RLX_");
    const char *behind = name + ((small || large) ? 4 : 0), *prefix = small ? s->prefix : s->upper;
    if ((small || large) && s->handset_prefix && !g_ascii_strncasecmp(behind, "handset", 7)) {
        g_string_append_printf(out, "%s%s",
                               text    ? ""
                               : small ? s->handset_prefix
                                       : s->handset_upper,
                               text ? text : behind + 7);
        return;
    }
    if (text)
        g_string_append(out, text);
    else if (!small && !large)
        g_string_append(out, name);
    else if (!strcmp(behind, "sender"))
        g_string_append(out, prefix);
    else
        g_string_append_printf(out, "%s_%s", prefix,
                               behind + (g_ascii_strncasecmp(behind, "sender_", 7) ? 0 : 7));
}

static char *named(const struct sender *s, GHashTable *tokens, const char *text)
{
    GString *out = g_string_new(NULL);
    while (*text) {
        gsize n = 0;
        while (g_ascii_isalnum(text[n]) || text[n] == '_') n++;
        if (n) {
            char *name = g_strndup(text, n);
            put_name(s, tokens, name, out);
            g_free(name);
        } else {
            g_string_append_c(out, *text);
        }
        text += MAX(n, 1);
    }
    return g_string_free(out, FALSE);
}

/* What stands here in the place of what the client asks of the library. */
static const struct {
    const char *path, *text;
} instead[] = {
    {"rlx/port.h",
     "/* Sends a frame. False: not now. */\nbool rlx_port_packet_send(void *port, uint8_t link, "
     "const uint8_t *packet, uint8_t count);\n"},
    {"rlx/rom.h", "#if defined(__AVR__) && defined(__GNUC__)\n"
                  "#define RLX_ROM8(at) pgm_read_byte(at)\n"
                  "#else\n"
                  "#define RLX_ROM8(at) (*(at))\n"
                  "#endif\n"
                  "#define RLX_ROM IN_ROM\n"
                  "typedef const uint8_t *rlx_rom;\n"},
    {"rlx/error.h", ""},
    {"rlx/def/replies.h", ""}};

static const char *source(void *user, const char *path)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(instead); i++)
        if (g_str_has_suffix(path, instead[i].path)) return instead[i].text;
    return bundle_source(user, path);
}

/* One fold for both files: what the header has is not put in again. */
struct folding {
    const struct sender *s;
    GHashTable *tokens, *sources;
    struct fold *fold;
};

static void begin(struct folding *f, const struct sender *s)
{
    GHashTableIter i;
    gpointer name, value;
    *f = (struct folding){s, tokens_of(s), bundle_sources(), NULL};
    f->fold = fold_new(source, f->sources);
    g_hash_table_iter_init(&i, f->tokens);
    while (g_hash_table_iter_next(&i, &name, &value)) fold_define(f->fold, name, value);
    fold_define(f->fold, "RLX_CLIENT_REQUESTS", "1");
}

static void end(struct folding *f)
{
    fold_free(f->fold);
    g_hash_table_destroy(f->sources);
    g_hash_table_destroy(f->tokens);
}

static void drop(char *text, const char *lines)
{
    for (char *at; (at = strstr(text, lines));)
        memmove(at, at + strlen(lines), strlen(at + strlen(lines)) + 1);
}

/* The file with what is known decided, and named. Owned by the caller. */
static char *folded(struct folding *f, const char *path)
{
    GString *out = g_string_new(NULL);
    fold_file(f->fold, path, out);
    if (!out->len) g_error("the tool lacks its own source %s", path);
    char *text = named(f->s, f->tokens, out->str);
    drop(text, "#ifdef __cplusplus\nextern \"C\" {\n#endif\n"); /* all of the header is in one */
    drop(text, "#ifdef __cplusplus\n}\n#endif\n");
    drop(text, "#include <stdbool.h>\n");
    drop(text, "#include <stdint.h>\n");
    g_string_free(out, TRUE);
    return text;
}

/* ---- the files ---- */

static const char rom[] =
    "/* Texts stand in flash where the compiler would copy them into RAM. */\n"
    "#if defined(__AVR__) && defined(__GNUC__)\n"
    "#include <avr/pgmspace.h>\n"
    "typedef const char *rom_text;\n"
    "#define ROM(text) PSTR(text)\n"
    "#define ROM_CHAR(at) ((char)pgm_read_byte(at))\n"
    "#define IN_ROM PROGMEM\n"
    "#else\n"
    "typedef const char *rom_text;\n"
    "#define ROM(text) (text)\n"
    "#define ROM_CHAR(at) (*(at))\n"
    "#define IN_ROM\n"
    "#endif\n\n";

/* The keys, as a text in flash. */
static void put_keys(const struct sender *s, GString *out)
{
    char *keys = sender_keys(s);
    g_string_append_printf(
        out, "/* Keys and codes, and what each says. */\nstatic const char keys[] IN_ROM =%s;\n\n",
        *keys ? keys : "\n    \"\"");
    g_free(keys);
}

/* Without the line that names the file, and its head: it is a file of its own no more. */
static void put_folded(struct folding *f, const char *path, GString *out)
{
    char *text = folded(f, path), *head = strstr(text, "/* ======== "), *from = text;
    if (head) from = strchr(head, '\n');
    char *behind = strstr(from, "*/\n");
    g_string_append(out, behind && from[strspn(from, "\n")] == '/' ? behind + 3 : from);
    g_free(text);
}

/* The writer of commands, and which byte none may have. */
static void put_writer(struct folding *f, GString *out)
{
    g_string_append_printf(out,
                           "/* Whether the byte would end a frame before its time. */\n"
                           "static inline bool is_end(uint8_t c)\n{\n    return %s;\n}\n\n",
                           (char *)g_hash_table_lookup(f->tokens, "RLX_SENDER_IS_END"));
    put_folded(f, "host/sender/parts/say.c", out);
}

static char *code(struct sender *s, struct folding *f, const char *calls)
{
    GString *out = g_string_new(NULL);
    g_string_append_printf(out, "#include \"%s.h\"\n\n%s", s->prefix, rom);
    put_writer(f, out);
    if (lex_is_keyed(s->link)) put_keys(s, out);
    put_folded(f, "host/sender/parts/hear.c", out);
    g_string_append_printf(out, "\n/* ---- the retry client ---- */\n\n%s", calls);
    put_folded(f, "src/links/client.c", out);
    if (s->link->layout) {
        put_folded(f, "host/sender/parts/bytes.c", out);
        sender_put_rows(s, out);
    }
    put_folded(f, "host/sender/parts/link.c", out);
    sender_put_readers(s, out);
    sender_put_functions(s, out);
    bundle_drop_uncalled(out);
    return g_string_free(out, FALSE);
}

/* The files of a sender, and of a handset on top of it. */
struct files {
    char *names[4], *texts[4];
    unsigned count;
};

static void add_file(struct files *f, const struct sender *s, const char *prefix,
                     const char *suffix, char *text)
{
    char *made = lexicon_made_by(s->lx, false), *all = g_strconcat(made, "\n", text, NULL);
    f->names[f->count] = g_strconcat(prefix, suffix, NULL);
    f->texts[f->count++] = bundle_tidied(all);
    g_free(all), g_free(made), g_free(text);
}

static void add_sender(struct files *files, struct sender *s)
{
    struct folding f;
    begin(&f, s);
    char *all = folded(&f, "rlx/client.h"), *client = strstr(all, CLIENT),
         *calls = strstr(all, CALLS);
    if (!client || !calls) g_error("rlx/client.h has no lines %s and %s", CLIENT, CALLS);
    *calls = 0;
    add_file(files, s, s->prefix, ".h", sender_header(s, client + strlen(CLIENT)));
    char *c = code(s, &f, calls + strlen(CALLS)), *head_end = strstr(all, "*/\n");
    char *head = g_strndup(all, head_end ? (gsize)(head_end + 3 - all) : 0);
    if (*head) drop(c, head); /* it is about the library's file */
    add_file(files, s, s->prefix, ".c", c);
    g_free(head);
    g_free(all);
    end(&f);
}

static void add_handset(struct files *files, struct sender *s, const struct lex_handset *handset)
{
    struct folding f;
    begin(&f, s);
    char *arguments = sender_init_arguments(s), *given = sender_init_given(s);
    const struct {
        const char *name;
        char *text;
    } tokens[] = {
        {"RLX_HANDSET_BUTTON_COUNT", g_strdup_printf("%u", handset_button_count(handset))},
        {"RLX_HANDSET_SLIDER_COUNT", g_strdup_printf("%u", handset->sliders->len)},
        {"RLX_HANDSET_REPEAT_MS", g_strdup_printf("%uu", handset->repeat)},
        {"RLX_HANDSET_IDLE", g_strdup(handset->idle ? "1" : "0")},
        {"RLX_HANDSET_ROWS", g_strdup_printf("%u", handset->buttons->len)},
        {"RLX_HANDSET_INIT", g_strdup_printf("struct %s *h%s", s->handset_prefix, arguments)},
        {"RLX_HANDSET_BEGIN", g_strdup_printf("%s_init(&h->sender%s)", s->prefix, given)}};
    g_free(arguments), g_free(given);
    for (unsigned i = 0; i < G_N_ELEMENTS(tokens); i++) {
        set(f.tokens, tokens[i].name, tokens[i].text);
        fold_define(f.fold, tokens[i].name, tokens[i].text);
    }
    GString *c = g_string_new(NULL);
    g_string_append_printf(c, "#include \"%s.h\"\n\n%s", s->handset_prefix, rom);
    put_writer(&f, c);
    handset_put_source(s, c, handset);
    put_folded(&f, "host/sender/parts/handset.c", c);
    bundle_drop_uncalled(c);
    add_file(files, s, s->handset_prefix, ".h", handset_header(s, handset));
    add_file(files, s, s->handset_prefix, ".c", g_string_free(c, FALSE));
    end(&f);
}

/* Whether there can be these files; false: error says why not. */
static bool can_write(const struct lexicon *lx, const struct lex_link *link,
                      const struct lex_handset *handset, GError **error)
{
    const char *config = "config";
    if (lex_is_raw(link))
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "link %s has no sender: the firmware reads its bytes, and no command goes over "
                    "it",
                    link->name);
    else if (link->layout && link->layout->channels)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "link %s has no sender: a radio control sends its channels; rlx card has the "
                    "frame",
                    link->name);
    else if (link->answer_end == LEX_END_NONE)
        g_set_error(
            error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
            "link %s has no sender: nothing ends its answers ('end none'), so that none can "
            "be told from the next",
            link->name);
    else if (!strcmp(link->name, config) || (handset && !strcmp(handset->name, config)))
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "%s_config.h is a file of the device: give the link or handset named config "
                    "another name",
                    lx->name);
    else if (handset && lexicon_link(lx, handset->name))
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "handset %s and link %s would both be in %s_%s.h: give one of them another "
                    "name",
                    handset->name, handset->name, lx->name, handset->name);
    else
        return true;
    return false;
}

static bool write_all(const struct lexicon *lx, const struct image *image,
                      const struct lex_link *link, const struct lex_handset *handset,
                      const char *directory, GError **error)
{
    if (!can_write(lx, link, handset, error)) return false;
    struct files files = {.count = 0};
    struct sender s;
    sender_begin(&s, lx, image, link);
    if (handset) {
        char *own = g_strdup_printf("%s_%s", lx->name, handset->name);
        s.handset_prefix = lex_identifier(own, false);
        s.handset_upper = lex_identifier(own, true);
        g_free(own);
    }
    add_sender(&files, &s);
    if (handset) add_handset(&files, &s, handset);
    bool ok = emit_write(directory, files.names, files.texts, files.count, error);
    for (unsigned i = 0; i < files.count; i++) g_free(files.names[i]), g_free(files.texts[i]);
    sender_end(&s);
    return ok;
}

bool sender_write(const struct lexicon *lx, const struct image *image, const struct lex_link *link,
                  const char *directory, GError **error)
{
    return write_all(lx, image, link, NULL, directory, error);
}

bool sender_write_handset(const struct lexicon *lx, const struct image *image,
                          const struct lex_handset *handset, const char *directory, GError **error)
{
    return write_all(lx, image, lexicon_link(lx, handset->link), handset, directory, error);
}
