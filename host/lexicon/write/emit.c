/* Writes the C of a lexicon: tables, prototypes, invokers, and the configuration.
 * Three files, written beside their places and moved there together.
 * The bytes of the image come from table_image.c. */
#include "lexicon/write/emit.h"

#include <errno.h>
#include <fcntl.h>
#include <glib/gstdio.h>
#include <string.h>
#include <sys/file.h>
#include <unistd.h>

#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "rlx/config.h"
#include "rlx/device.h"
#include "rlx/image.h"

/* Each file's first line. */
#define MADE_BY "/* Made by rlx emit from "

static const struct {
    const char *id, *name;
} features[] = {/* by RLX_BIT_... */
#define FEATURE(id, name) {#id, name},
                RLX_FEATURES(FEATURE)
#undef FEATURE
};

G_STATIC_ASSERT(RLX_N_FEATURES <= 64); /* bits of an image's needs */
G_STATIC_ASSERT(RLX_N_KINDS <= 32);    /* bits of a verb's kinds */

struct emit {
    const struct lexicon *lx;
    const struct image *image;
    char *upper; /* NAME in capitals */
    GString *out;
};

G_GNUC_PRINTF(2, 3)
static void put(struct emit *e, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_string_append_vprintf(e->out, format, args);
    va_end(args);
}

/* As it may stand in a comment. Owned by the caller. */
static char *comment_of(const char *text)
{
    GString *out = g_string_new(NULL);
    for (const char *c = text; *c; c++) {
        bool opens = c[0] == '/' && c[1] == '*', closes = c[0] == '*' && c[1] == '/';
        if (opens || closes)
            g_string_append_printf(out, "%c ", *c);
        else
            g_string_append_c(out, (guchar)*c < ' ' ? ' ' : *c);
    }
    return g_string_free(out, FALSE);
}

static void put_made_by(struct emit *e)
{
    char *base = g_path_get_basename(e->lx->file), *comment = comment_of(base);
    put(e, MADE_BY "%s; change that file, not this one. */\n", comment);
    g_free(comment);
    g_free(base);
}

/* ---- handlers ---- */

/* The commands with a handler, each function once. */
static GPtrArray *called(const struct lexicon *lx)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        bool first = command->effect.kind == LEX_CALL;
        for (unsigned k = 0; first && k < all->len; k++) {
            struct lex_command *other = all->pdata[k];
            first = strcmp(other->effect.handler, command->effect.handler) != 0;
        }
        if (first) g_ptr_array_add(all, command);
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        struct lex_command *asked = ((struct lex_query *)lx->queries->pdata[i])->asked;
        bool first = true;
        for (unsigned k = 0; first && k < all->len; k++) {
            struct lex_command *other = all->pdata[k];
            first = strcmp(other->effect.handler, asked->effect.handler) != 0;
        }
        if (first) g_ptr_array_add(all, asked);
    }
    return all;
}

/* The enum of a choice, once. */
static void put_enum(struct emit *e, const struct lex_command *command,
                     const struct lex_element *slot, GHashTable *said)
{
    char *name = lex_enum_name(e->lx, command, slot), *prefix = lex_identifier(name, true);
    if (!lex_is_verbs(slot) && g_hash_table_add(said, g_strdup(name))) {
        put(e, "enum %s {", name);
        for (unsigned i = 0; i < slot->words->len; i++) {
            char *word = lex_identifier(slot->words->pdata[i], true);
            put(e, "%s %s_%s = %u", i ? "," : "", prefix, word, image_choice_value(slot, i));
            g_free(word);
        }
        put(e, " };\n");
    }
    g_free(name);
    g_free(prefix);
}

static void put_prototype(struct emit *e, const struct lex_command *command)
{
    char *text = lex_command_text(command);
    const char *title = command->query ? command->query->title : command->title;
    const GPtrArray *slots = image_slots(command);
    char *both = g_strconcat(text, title ? ": " : "", title ? title : "", NULL);
    char *comment = comment_of(both);
    put(e, "/* %s */\n", comment);
    g_free(comment);
    g_free(both);
    put(e, "int %s_%s(struct %s *%s", e->lx->name, command->effect.handler, e->lx->name,
        e->lx->name);
    for (unsigned i = 0; i < slots->len; i++) {
        struct lex_element *slot = slots->pdata[i];
        if (slot->kind == LEX_WORD) continue;
        char *type = lex_slot_of(slot)->type(e->lx, command, slot);
        char *name = lex_argument_name(slots, slot);
        if (command->query)
            put(e, ", %s *%s", type, name);
        else if (lex_slot_of(slot)->count)
            put(e, ", const %s *%s, uint8_t %s_%s", lex_slot_of(slot)->points_to, name, name,
                lex_slot_of(slot)->count);
        else
            put(e, ", %s %s", type, name);
        g_free(type);
        g_free(name);
    }
    put(e, ");\n");
    g_free(text);
}

static void put_handlers(struct emit *e)
{
    GPtrArray *all = called(e->lx);
    GHashTable *said = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    if (all->len)
        put(e,
            "\n/* Write these handlers. Each returns RLX_DONE, or RLX_ALREADY if nothing changed, "
            "or\n"
            " * -RLX_ERR_BUSY or -RLX_ERR_FAILED if it cannot. rlx_poll() calls them; they must "
            "not\n"
            " * wait. A text is not ended by a 0 and is valid during the call. The handler of a\n"
            " * query fills in its values. */\n");
    for (unsigned i = 0; i < all->len; i++) {
        struct lex_command *command = all->pdata[i];
        const GPtrArray *slots = image_slots(command);
        for (unsigned k = 0; k < slots->len; k++) {
            struct lex_element *slot = slots->pdata[k];
            if (lex_has_words(slot)) put_enum(e, command, slot, said);
        }
        put_prototype(e, command);
    }
    g_hash_table_destroy(said);
    g_ptr_array_free(all, TRUE);
}

/* ---- events ---- */

static char *event_name(const struct emit *e, const char *event, const char *word)
{
    char *both = word ? g_strdup_printf("%s_%s", event, word) : g_strdup(event);
    char *upper = lex_identifier(both, true);
    char *name = g_strdup_printf("%s_EVENT_%s", e->upper, upper);
    g_free(both);
    g_free(upper);
    return name;
}

/* The function that sends an event. */
static void put_event(struct emit *e, unsigned index)
{
    const struct lexicon *lx = e->lx;
    const struct lex_event *event = lx->events->pdata[index];
    char *name = lex_identifier(event->name, false);
    for (unsigned k = 0; event->what && k < event->what->words->len; k++) {
        char *word = event_name(e, event->name, event->what->words->pdata[k]);
        if (!k) put(e, "enum %s_event_%s {", lx->name, name);
        put(e, "%s %s = %u", k ? "," : "", word, k);
        if (k + 1 == event->what->words->len) put(e, " };\n");
        g_free(word);
    }
    put(e, "static inline int %s_send_%s(struct %s *%s", lx->name, name, lx->name, lx->name);
    if (event->what) put(e, ", enum %s_event_%s what", lx->name, name);
    char *number = event_name(e, event->name, NULL);
    put(e, ")\n{\n    return rlx_event(&%s->device, %s, %s);\n}\n", lx->name, number,
        event->what ? "(uint8_t)what" : "0");
    g_free(number);
    g_free(name);
}

static void put_events(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    if (!lx->events->len) return;
    put(e, "\n/* The events: each goes out on its links as soon as they have room. See "
           "rlx_event(). */\n"
           "enum {");
    for (unsigned i = 0; i < lx->events->len; i++) {
        char *name = event_name(e, ((struct lex_event *)lx->events->pdata[i])->name, NULL);
        put(e, " %s,", name);
        g_free(name);
    }
    put(e, " %s_EVENTS };\n", e->upper);
    for (unsigned i = 0; i < lx->events->len; i++) put_event(e, i);
}

/* ---- settings ---- */

/* What a setting is, and what asks for it. */
static void put_setting(struct emit *e, const struct lex_setting *setting)
{
    const char *lx = e->lx->name;
    const struct lex_element *slot = setting->slot;
    char *name = lex_identifier(setting->name, false), *upper = lex_identifier(setting->name, true);
    char *type = slot->kind == LEX_CHOICE ? g_strdup_printf("enum %s_setting_%s", lx, name)
                                          : lex_slot_of(slot)->type(e->lx, NULL, slot);
    bool words = (slot->kind == LEX_CHOICE && !lex_is_verbs(slot)) || slot->kind == LEX_SET;
    for (unsigned i = 0; words && i < slot->words->len; i++) {
        char *word = lex_identifier(slot->words->pdata[i], true);
        if (!i) put(e, "enum %s_setting_%s {", lx, name);
        put(e, "%s %s_SETTING_%s_%s = %u", i ? "," : "", e->upper, upper, word,
            image_choice_value(slot, i));
        if (i + 1 == slot->words->len) put(e, " };\n");
        g_free(word);
    }
    if (slot->kind == LEX_TEXT)
        put(e,
            "static inline const char *%s_setting_%s(const struct %s *%s, uint8_t *count)\n{\n"
            "    return rlx_setting_text(&%s->device, %s_SETTING_%s, count);\n}\n",
            lx, name, lx, lx, lx, e->upper, upper);
    else
        put(e,
            "static inline %s %s_setting_%s(const struct %s *%s)\n{\n    return "
            "(%s)rlx_setting(&%s->device, %s_SETTING_%s);\n}\n",
            slot->kind == LEX_CHOICE && !words ? "enum rlx_verb" : type, lx, name, lx, lx,
            slot->kind == LEX_CHOICE && !words ? "enum rlx_verb" : type, lx, e->upper, upper);
    g_free(type);
    g_free(name);
    g_free(upper);
}

static void put_settings(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    if (!lx->settings->len) return;
    put(e, "\n/* The values of the settings. See rlx_setting(). */\nenum {");
    for (unsigned i = 0; i < lx->settings->len; i++) {
        char *name = lex_identifier(((struct lex_setting *)lx->settings->pdata[i])->name, true);
        put(e, " %s_SETTING_%s,", e->upper, name);
        g_free(name);
    }
    put(e, " %s_SETTINGS };\n", e->upper);
    for (unsigned i = 0; i < lx->settings->len; i++) put_setting(e, lx->settings->pdata[i]);
}

/* ---- NAME.h ---- */

static void put_constants(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    put(e, "\n#define %s_FINGERPRINT \"%s\"\n", e->upper, e->image->fingerprint);
    put(e, "\nenum {");
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        char *name = lex_identifier(link->name, true);
        put(e, " %s_LINK_%s,", e->upper, name);
        g_free(name);
    }
    put(e, " %s_LINKS };\nenum {", e->upper);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        char *name = lex_identifier(((struct lex_output *)lx->outputs->pdata[i])->name, true);
        put(e, " %s_OUTPUT_%s,", e->upper, name);
        g_free(name);
    }
    put(e, " %s_OUTPUTS };\n", e->upper);
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        char *name = lex_identifier(((struct lex_input *)lx->inputs->pdata[i])->name, true);
        put(e, "%s %s_INPUT_%s,", i ? "" : "enum {", e->upper, name);
        g_free(name);
    }
    if (lx->inputs->len) put(e, " %s_INPUTS };\n", e->upper);
    for (unsigned i = 0; i < lx->routines->len; i++) {
        char *name = lex_identifier(((struct lex_routine *)lx->routines->pdata[i])->name, true);
        put(e, "%s %s_ROUTINE_%s,", i ? "" : "enum {", e->upper, name);
        g_free(name);
    }
    if (lx->routines->len) put(e, " %s_ROUTINES };\n", e->upper);
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        char *name = lex_identifier(link->name, true);
        put(e, "#define %s_%s_BAUD %u\n", e->upper, name, link->baud);
        if (link->tags)
            put(e, "#define %s_%s_WINDOW_MS %u /* a retry client's window_ms */\n", e->upper, name,
                link->window);
        g_free(name);
    }
}

static void put_header(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    put_made_by(e);
    put(e,
        "#ifndef %s_H\n#define %s_H\n\n#include \"rlx/rlx.h\"\n\n#ifdef __cplusplus\nextern "
        "\"C\" {\n#endif\n",
        e->upper, e->upper);
    put_constants(e);
    char *title = comment_of(lx->title ? lx->title : lx->name);
    put(e,
        "\n/* %s, with all its memory. It must begin as zeros: make it static. */\nstruct %s {\n   "
        " "
        "struct rlx_device device;\n",
        title, lx->name);
    g_free(title);
    put(e, "    struct rlx_link link[%s_LINKS];\n", e->upper);
    if (lx->outputs->len) put(e, "    struct rlx_output output[%s_OUTPUTS];\n", e->upper);
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        put(e, "    uint8_t %s_buffer[RLX_LINK_BUFFER(%u, %u, %u)];\n", link->name, link->receive,
            link->transmit, link->longest);
        if (link->tags)
            put(e, "    struct rlx_sender %s_senders[%u];\n", link->name, MAX(link->senders, 1));
        if (lex_drives_modem(link)) put(e, "    struct rlx_sms %s_sms;\n", link->name);
    }
    if (lx->inputs->len) put(e, "    struct rlx_input input[%s_INPUTS];\n", e->upper);
    if (lx->routines->len) put(e, "    struct rlx_routine routine[%s_ROUTINES];\n", e->upper);
    if (image_settings(lx)) put(e, "    rlx_value setting[%u];\n", image_settings(lx));
    if (e->image->setting_texts)
        put(e, "    uint8_t setting_texts[%u];\n", e->image->setting_texts);
    if (lx->events->len)
        put(e, "    struct rlx_pending events[%s_LINKS][%u];\n", e->upper, lx->events->len);
    put(e,
        "};\n\n/* Starts it: puts the outputs into their safe states, then sends the greeting. "
        "`port` is the\n"
        " * first argument of every port function. Returns 0, or a negative error of rlx_init(). "
        "*/\n"
        "int %s_init(struct %s *%s, void *port, enum rlx_reset cause)\n"
        "    __attribute__((__warn_unused_result__));\n",
        lx->name, lx->name, lx->name);
    put_handlers(e);
    put_events(e);
    put_settings(e);
    put(e, "\n#ifdef __cplusplus\n}\n#endif\n\n#endif\n");
}

/* ---- NAME.c ---- */

static void put_bytes(struct emit *e)
{
    const GByteArray *bytes = e->image->bytes;
    const GArray *rows = e->image->rows;
    put(e, "\nstatic const _Alignas(2) uint8_t image[%u] RLX_ROM = {\n", bytes->len);
    for (unsigned i = 0; i < rows->len; i++) {
        const struct image_row *row = &g_array_index(rows, struct image_row, i);
        unsigned end = i + 1 < rows->len ? row[1].offset : bytes->len;
        char *comment = comment_of(row->comment);
        put(e, "    /* %u: %s */\n", row->offset, comment);
        g_free(comment);
        for (unsigned at = row->offset; at < end; at++)
            put(e, "%s0x%02X,%s", (at - row->offset) % 16 ? " " : "    ", bytes->data[at],
                at + 1 == end || (at - row->offset) % 16 == 15 ? "\n" : "");
    }
    put(e, "};\n");
}

/* ---- knobs ---- */

enum {
#define KNOB(id, least, most, normal, zero, counts) KNOB_##id,
    RLX_KNOBS(KNOB) N_KNOBS
#undef KNOB
};

static const struct {
    const char *id, *counts;
    unsigned least, normal;
} knobs[] = {/* by KNOB_... */
#define KNOB(id, least, most, normal, zero, counts) {#id, counts, least, normal},
             RLX_KNOBS(KNOB)
#undef KNOB
};

/* The longest frame that is looked at before its turn. */
static unsigned ahead_of(const struct lexicon *lx)
{
    unsigned most = 0;
    bool newest = false;
    for (unsigned i = 0; i < lx->commands->len; i++)
        newest |= ((struct lex_command *)lx->commands->pdata[i])->newest;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        bool counted = link->frame == LEX_FRAME_FIXED || link->frame == LEX_FRAME_CODES;
        if (newest || counted) most = MAX(most, link->longest);
    }
    return most;
}

/* The longest reply that is kept for a sender with tags. */
static unsigned kept_of(const struct lexicon *lx)
{
    unsigned kept = 0;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->tags)
            kept = MAX(kept, MIN(link->transmit,
                                 link->payload ? link->payload : RLX_MOST_KEPT_REPLY_BYTES));
    }
    return kept;
}

/* What this lexicon needs of a knob at least; -1: the lexicon has nothing to do with it. */
static int knob_needs(const struct emit *e, unsigned knob)
{
    switch (knob) {
    case KNOB_SLOTS: return (int)e->image->slots;
    case KNOB_LINKS: return (int)e->lx->links->len;
    case KNOB_KEPT_REPLY_BYTES: return (int)kept_of(e->lx);
    case KNOB_AHEAD_BYTES: return (int)ahead_of(e->lx);
    case KNOB_NV_AREA_BYTES: return image_settings(e->lx) ? (int)image_nv_needs(e->lx) : -1;
    default: return -1;
    }
}

/* The compiler finds what is wrong with the build, not the board. */
static void put_asserts(struct emit *e)
{
    put(e, "\nRLX_STATIC_ASSERT(RLX_IMAGE_FORMAT == %d, \"made by another rlx: emit it anew\");\n",
        RLX_IMAGE_FORMAT);
    for (unsigned i = 0; i < N_KNOBS; i++) {
        int needs = knob_needs(e, i);
        const char *id = knobs[i].id;
        if (i == KNOB_LINKS && needs)
            put(e, "RLX_STATIC_ASSERT(!RLX_%s || RLX_%s == %d, \"RLX_%s is another number\");\n",
                id, id, needs, id);
        else if (needs > (int)knobs[i].least)
            put(e, "RLX_STATIC_ASSERT(!RLX_%s || RLX_%s >= %d, \"RLX_%s is too small\");\n", id, id,
                needs, id);
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(features); i++)
        if (e->image->needs >> i & 1)
            put(e, "RLX_STATIC_ASSERT(RLX_HAS_%s, \"this build lacks: %s\");\n", features[i].id,
                features[i].name);
}

/* The arguments that a slot gives, as types or as values. */
static void put_arguments(struct emit *e, char **types, bool values)
{
    for (unsigned i = 0, at = 0; types[i]; i++, at++) {
        if (g_str_equal(types[i], "text")) {
            if (values)
                put(e, ", RLX_TEXT_AT_OF(frame, value[%u]), RLX_TEXT_LENGTH_OF(value[%u])", at, at);
            else
                put(e, ", const char *, uint8_t");
        } else if (g_str_has_prefix(types[i], "list:")) {
            if (values)
                put(e, ", &value[%u], (uint8_t)value[%u]", at + 1, at);
            else
                put(e, ", const rlx_value *, uint8_t");
            at += (unsigned)g_ascii_strtoull(types[i] + strlen("list:"), NULL, 10);
        } else if (values) {
            put(e, ", (%s)value[%u]", types[i], at);
        } else {
            put(e, ", %s", types[i]);
        }
    }
}

/* The invoker of a query takes the values of its handler. */
static void put_asker(struct emit *e, char **types)
{
    unsigned n = g_strv_length(types);
    put(e, "    (void)frame;\n");
    for (unsigned i = 0; i < n; i++) {
        char *type = g_strndup(types[i], strlen(types[i]) - strlen(" *"));
        put(e, "    %s asked%u = 0;\n", type, i);
        g_free(type);
    }
    put(e, "    int done = ((int (*)(struct %s *", e->lx->name);
    for (unsigned i = 0; i < n; i++) put(e, ", %s", types[i]);
    put(e, "))fn)(user");
    for (unsigned i = 0; i < n; i++) put(e, ", &asked%u", i);
    put(e, ");\n");
    for (unsigned i = 0; i < n; i++) put(e, "    value[%u] = (rlx_value)asked%u;\n", i, i);
    put(e, "    return done;\n}\n");
}

/* An rlx_invoke for each signature. */
static void put_invoker(struct emit *e, unsigned index)
{
    char **types = g_strsplit(e->image->signatures->pdata[index], ",", -1);
    put(e,
        "\nstatic int call_%u(rlx_fn fn, void *user, rlx_value *value, const uint8_t "
        "*frame)\n{\n",
        index);
    if (*types && g_str_has_suffix(*types, " *")) {
        put_asker(e, types);
        g_strfreev(types);
        return;
    }
    if (!*types) put(e, "    (void)value;\n");
    if (!g_strv_contains((const char *const *)types, "text")) put(e, "    (void)frame;\n");
    put(e, "    return ((int (*)(struct %s *", e->lx->name);
    put_arguments(e, types, false);
    put(e, "))fn)(user");
    put_arguments(e, types, true);
    put(e, ");\n}\n");
    g_strfreev(types);
}

static void put_calls(struct emit *e)
{
    const struct image *image = e->image;
    for (unsigned i = 0; i < image->signatures->len; i++) put_invoker(e, i);
    put(e, "\nstatic const rlx_fn invokers[] RLX_ROM = {\n");
    for (unsigned i = 0; i < image->signatures->len; i++)
        put(e, "    (rlx_fn)call_%u, /* (%s) */\n", i,
            (char *)image->signatures->pdata[i]); /* types only */
    put(e, "};\nstatic const rlx_fn handlers[] RLX_ROM = {\n");
    for (unsigned i = 0; i < image->handlers->len; i++) {
        const struct lex_command *command = image->handlers->pdata[i];
        put(e, "    (rlx_fn)%s_%s,\n", e->lx->name, command->effect.handler);
    }
    put(e, "};\n");
}

static void put_init(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    const char *name = lx->name;
    put(e, "\nint %s_init(struct %s *%s, void *port, enum rlx_reset cause)\n{\n", name, name, name);
    for (unsigned i = 0; i < lx->links->len; i++)
        put(e, "    %s->link[%u].buffer = %s->%s_buffer;\n", name, i, name,
            ((struct lex_link *)lx->links->pdata[i])->name);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->tags)
            put(e, "    %s->link[%u].senders = %s->%s_senders;\n", name, i, name, link->name);
        if (lex_drives_modem(link))
            put(e, "    %s->link[%u].sms = &%s->%s_sms;\n", name, i, name, link->name);
    }
    for (unsigned i = 0; lx->events->len && i < lx->links->len; i++)
        put(e, "    %s->link[%u].events = %s->events[%u];\n", name, i, name, i);
    put(e, "    %s->device.image = image;\n", name);
    if (e->image->handlers->len)
        put(e,
            "    %s->device.handlers = handlers;\n    %s->device.invokers = invokers;\n"
            "    %s->device.user = %s;\n",
            name, name, name, name);
    put(e, "    %s->device.links = %s->link;\n", name, name);
    if (lx->outputs->len) put(e, "    %s->device.outputs = %s->output;\n", name, name);
    if (lx->inputs->len) put(e, "    %s->device.inputs = %s->input;\n", name, name);
    if (lx->routines->len) put(e, "    %s->device.routines = %s->routine;\n", name, name);
    if (image_settings(lx)) put(e, "    %s->device.settings = %s->setting;\n", name, name);
    if (e->image->setting_texts)
        put(e, "    %s->device.setting_texts = %s->setting_texts;\n", name, name);
    put(e, "    %s->device.port = port;\n    return rlx_init(&%s->device, cause);\n}\n", name,
        name);
}

static void put_source(struct emit *e)
{
    put_made_by(e);
    put(e, "#include \"%s.h\"\n#include \"rlx/image.h\"\n", e->lx->name);
    put_asserts(e);
    put_bytes(e);
    if (e->image->handlers->len) put_calls(e);
    put_init(e);
}

/* ---- NAME_config.h ---- */

static void put_config(struct emit *e)
{
    put_made_by(e);
    put(e,
        "/* What the library needs for it: compile all of it with "
        "-DRLX_CONFIG='\"%s_config.h\"'. */\n",
        e->lx->name);
    put(e, "#define RLX_LEXICON \"%s %u %s\" /* for the simulated port */\n", e->lx->name,
        e->lx->version, e->image->fingerprint);
    for (unsigned i = 0; i < G_N_ELEMENTS(features); i++)
        put(e, "#define RLX_HAS_%s %d /* %s */\n", features[i].id, (int)(e->image->needs >> i & 1),
            features[i].name);
    put(e, "#define RLX_BUILT_IN %u /* built-in words */\n", e->lx->built_in);
    for (unsigned i = 0; i < N_KNOBS; i++) { /* one of the command line goes before it */
        int needs = knob_needs(e, i);
        unsigned value = needs < 0                 ? knobs[i].normal
                         : i == KNOB_NV_AREA_BYTES ? image_nv_area(e->lx)
                                                   : MAX((unsigned)needs, knobs[i].least);
        put(e, "#ifndef RLX_%s /* %s */\n#define RLX_%s %u\n#endif\n", knobs[i].id, knobs[i].counts,
            knobs[i].id, value);
    }
}

static const struct {
    const char *suffix;
    void (*fill)(struct emit *);
} files[] = {{".h", put_header}, {".c", put_source}, {"_config.h", put_config}};

static char *path_of(const struct lexicon *lx, const char *directory, unsigned i)
{
    char *base = g_strconcat(lx->name, files[i].suffix, NULL);
    char *path = g_build_filename(directory, base, NULL);
    g_free(base);
    return path;
}

/* Whether the file is none, or was emitted before. */
static bool may_replace(const char *path, GError **error)
{
    char *text = NULL;
    bool ok = !g_file_test(path, G_FILE_TEST_EXISTS) ||
              (g_file_get_contents(path, &text, NULL, NULL) && g_str_has_prefix(text, MADE_BY));
    if (!ok)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_EXIST,
                    "%s was not made by rlx emit, and is left as it is: choose another folder (-o)",
                    path);
    g_free(text);
    return ok;
}

/* All of them or none: written beside their places first. */
static bool write_files(struct emit *e, const char *directory, GError **error)
{
    char *path[G_N_ELEMENTS(files)], *beside[G_N_ELEMENTS(files)];
    bool ok = true;
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        path[i] = path_of(e->lx, directory, i);
        beside[i] = g_strconcat(path[i], ".new", NULL);
        ok = ok && may_replace(path[i], error);
    }
    for (unsigned i = 0; ok && i < G_N_ELEMENTS(files); i++) {
        e->out = g_string_new(NULL);
        files[i].fill(e);
        ok = g_file_set_contents(beside[i], e->out->str, (gssize)e->out->len, error);
        g_string_free(e->out, TRUE);
    }
    for (unsigned i = 0; ok && i < G_N_ELEMENTS(files); i++)
        if (g_rename(beside[i], path[i]) != 0) {
            ok = false;
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", path[i],
                        g_strerror(errno));
        }
    for (unsigned i = 0; i < G_N_ELEMENTS(files); i++) {
        if (!ok) g_remove(beside[i]);
        g_free(path[i]), g_free(beside[i]);
    }
    return ok;
}

bool lexicon_emit(const struct lexicon *lx, const struct image *image, const char *directory,
                  GError **error)
{
    struct emit e = {.lx = lx, .image = image, .upper = lex_identifier(lx->name, true)};
    int folder = g_mkdir_with_parents(directory, 0777) == 0 ? g_open(directory, O_RDONLY, 0) : -1;
    bool ok = folder >= 0;
    if (ok) { /* one at a time: the three files belong together */
        flock(folder, LOCK_EX);
        ok = write_files(&e, directory, error);
        close(folder);
    } else {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "cannot make the folder %s",
                    directory);
    }
    g_free(e.upper);
    return ok;
}
