/* Writes NAME.h: the memory of a device, its constants, and the prototypes of handlers.
 * Each comment is a text of the lexicon, made safe for a comment.
 * The order of the memory is that of struct rlx_fixed, which NAME.c compares. */
#include "lexicon/write/emit_parts.h"

#include <string.h>

#include "lexicon/contract.h"
#include "lexicon/kind.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "rlx/image.h"

/* ---- handlers ---- */

/* The commands with a handler, each function once. */
static GPtrArray *called(const struct lexicon *lx)
{
    GPtrArray *all = g_ptr_array_new(), *callers = lex_callers(lx);
    for (unsigned i = 0; i < callers->len; i++) {
        struct lex_command *command = callers->pdata[i];
        bool first = true;
        for (unsigned k = 0; first && k < all->len; k++) {
            struct lex_command *other = all->pdata[k];
            first = strcmp(other->effect.handler, command->effect.handler) != 0;
        }
        if (first) g_ptr_array_add(all, command);
    }
    g_ptr_array_free(callers, TRUE);
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
        emit_put(e, "enum %s {", name);
        for (unsigned i = 0; i < slot->words->len; i++) {
            char *word = lex_identifier(slot->words->pdata[i], true);
            emit_put(e, "%s %s_%s = %u", i ? "," : "", prefix, word, image_choice_value(slot, i));
            g_free(word);
        }
        emit_put(e, " };\n");
    }
    g_free(name);
    g_free(prefix);
}

/* An argument of a handler, and what its number counts. Owned by the caller. */
static char *argument(const struct emit *e, const struct lex_command *command,
                      const struct lex_element *slot)
{
    const struct lex_slot *of = lex_slot_of(slot);
    char *type = of->type(e->lx, command, slot);
    char *name = lex_argument_name(lex_arguments(command), slot);
    char *note = of->note ? of->note(slot) : NULL, *comment = note ? emit_comment(note) : NULL;
    GString *text = g_string_new(NULL);
    bool told = lex_is_told(command, slot);
    if (told)
        g_string_append_printf(text, "%s *%s", type, name);
    else if (of->count)
        g_string_append_printf(text, "const %s *%s", of->points_to, name);
    else
        g_string_append_printf(text, "%s %s", type, name);
    if (comment) g_string_append_printf(text, " /* %s */", comment);
    if (of->count && !told) g_string_append_printf(text, ", uint8_t %s_%s", name, of->count);
    g_free(comment);
    g_free(note);
    g_free(type);
    g_free(name);
    return g_string_free(text, FALSE);
}

/* On one line, or an argument on each where that is too long. */
/* What the drill will hold it to. */
static void put_contract(struct emit *e, const struct lex_contract *contract)
{
    if (!contract) return;
    GPtrArray *clauses = lex_contract_clauses(e->lx, contract);
    for (unsigned i = 0; i < clauses->len; i++) {
        char *clause = emit_comment(clauses->pdata[i]);
        emit_put(e, "%s%s%s\n", i ? " * " : "/* It ", clause,
                 i + 1 < clauses->len ? "," : ". */");
        g_free(clause);
    }
    g_ptr_array_free(clauses, TRUE);
}

static void put_prototype(struct emit *e, const struct lex_command *command)
{
    enum { LINE = 100 };
    char *text = lex_command_text(command);
    const char *title = command->query ? command->query->title : command->title;
    const GPtrArray *slots = lex_arguments(command);
    char *both = g_strconcat(text, title ? ": " : "", title ? title : "", NULL);
    char *comment = emit_comment(both);
    emit_put(e, "/* %s */\n", comment);
    g_free(comment);
    g_free(both);
    put_contract(e, lex_contract_of(e->lx, command->effect.handler));
    g_free(text);
    GPtrArray *arguments = g_ptr_array_new_with_free_func(g_free);
    size_t length =
        strlen("int (struct  *);") + strlen(command->effect.handler) + 3 * strlen(e->lx->name);
    for (unsigned i = 0; i < slots->len; i++) {
        if (((struct lex_element *)slots->pdata[i])->kind == LEX_WORD) continue;
        char *one = argument(e, command, slots->pdata[i]);
        length += strlen(one) + 2;
        g_ptr_array_add(arguments, one);
    }
    emit_put(e, "int %s_%s(struct %s *%s", e->lx->name, command->effect.handler, e->lx->name,
             e->lx->name);
    for (unsigned i = 0; i < arguments->len; i++)
        emit_put(e, ",%s%s", length > LINE ? "\n    " : " ", (char *)arguments->pdata[i]);
    emit_put(e, ");\n");
    g_ptr_array_free(arguments, TRUE);
}

static void put_handlers(struct emit *e)
{
    GPtrArray *all = called(e->lx);
    GHashTable *said = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    if (all->len)
        emit_put(
            e,
            "\n/* Write these handlers. Each returns RLX_DONE, or RLX_ALREADY if nothing changed, "
            "or\n"
            " * -RLX_ERR_BUSY or -RLX_ERR_FAILED if it cannot. rlx_poll() calls them; they must "
            "not\n"
            " * wait. A text is not ended by a 0 and is valid during the call. Pointers are "
            "filled\n"
            " * in by the handler: the answer has these values. */\n");
    for (unsigned i = 0; i < all->len; i++) {
        struct lex_command *command = all->pdata[i];
        const GPtrArray *slots = lex_arguments(command);
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
        if (!k) emit_put(e, "enum %s_event_%s {", lx->name, name);
        emit_put(e, "%s %s = %u", k ? "," : "", word, k);
        if (k + 1 == event->what->words->len) emit_put(e, " };\n");
        g_free(word);
    }
    emit_put(e, "static inline int %s_send_%s(struct %s *%s", lx->name, name, lx->name, lx->name);
    if (event->what) emit_put(e, ", enum %s_event_%s what", lx->name, name);
    char *number = event_name(e, event->name, NULL);
    emit_put(e, ")\n{\n    return rlx_event(&%s->device, %s, %s);\n}\n", lx->name, number,
             event->what ? "(uint8_t)what" : "0");
    g_free(number);
    g_free(name);
}

static void put_events(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    if (!lx->events->len) return;
    emit_put(e, "\n/* The events: each goes out on its links as soon as they have room. See "
                "rlx_event(). */\n"
                "enum {");
    for (unsigned i = 0; i < lx->events->len; i++) {
        char *name = event_name(e, ((struct lex_event *)lx->events->pdata[i])->name, NULL);
        emit_put(e, " %s,", name);
        g_free(name);
    }
    emit_put(e, " %s_EVENTS };\n", e->upper);
    for (unsigned i = 0; i < lx->events->len; i++) put_event(e, i);
}

/* ---- outputs that the firmware drives too ---- */

static void put_call(struct emit *e, const struct lex_output *out)
{
    static const struct lex_call level = {"uint8_t percent", "rlx_output_level", "percent"},
                                 onoff = {"enum rlx_verb verb", "rlx_output_switch", "verb"};
    const struct lex_kind *kind = lex_kind_of(out);
    const struct lex_call *call = kind->call.function    ? &kind->call
                                  : lex_takes_level(out) ? &level
                                                         : &onoff;
    const char *lx = e->lx->name;
    char *name = lex_identifier(out->name, false), *upper = lex_identifier(out->name, true);
    emit_put(e,
             "static inline void %s_%s_safe(struct %s *%s)\n{\n    rlx_output_safe(&%s->device, "
             "%s_OUTPUT_%s);\n}\n",
             lx, name, lx, lx, lx, e->upper, upper);
    if (out->by == LEX_BY_FIRMWARE)
        emit_put(e,
                 "static inline int %s_%s(struct %s *%s, %s)\n{\n    return %s(&%s->device, "
                 "%s_OUTPUT_%s, %s);\n}\n",
                 lx, name, lx, lx, call->args, call->function, lx, e->upper, upper, call->passes);
    g_free(upper);
    g_free(name);
}

static void put_calls(struct emit *e)
{
    bool first = true;
    for (unsigned i = 0; i < e->lx->outputs->len; i++) {
        const struct lex_output *out = e->lx->outputs->pdata[i];
        if (!out->by) continue;
        if (first)
            emit_put(e,
                     "\n/* The outputs that your firmware drives, too: _safe() puts one into its "
                     "safe state at once, as\n * halt does. See rlx/drive.h. */\n");
        first = false;
        put_call(e, out);
    }
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
        if (!i) emit_put(e, "enum %s_setting_%s {", lx, name);
        emit_put(e, "%s %s_SETTING_%s_%s = %u", i ? "," : "", e->upper, upper, word,
                 image_choice_value(slot, i));
        if (i + 1 == slot->words->len) emit_put(e, " };\n");
        g_free(word);
    }
    if (lex_is_key(e->lx, setting->name))
        emit_put(e,
                 "static inline int %s_key_%s(struct %s *%s, const char *key, uint8_t count)\n{\n"
                 "    return rlx_key_store(&%s->device, %s_SETTING_%s, key, count);\n}\n",
                 lx, name, lx, lx, lx, e->upper, upper);
    else if (slot->kind == LEX_TEXT)
        emit_put(e,
                 "static inline const char *%s_setting_%s(const struct %s *%s, uint8_t *count)\n{\n"
                 "    return rlx_setting_text(&%s->device, %s_SETTING_%s, count);\n}\n",
                 lx, name, lx, lx, lx, e->upper, upper);
    else
        emit_put(e,
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
    emit_put(e, "\n/* The values of the settings. See rlx_setting(). */\nenum {");
    for (unsigned i = 0; i < lx->settings->len; i++) {
        char *name = lex_identifier(((struct lex_setting *)lx->settings->pdata[i])->name, true);
        emit_put(e, " %s_SETTING_%s,", e->upper, name);
        g_free(name);
    }
    emit_put(e, " %s_SETTINGS };\n", e->upper);
    for (unsigned i = 0; i < lx->settings->len; i++) put_setting(e, lx->settings->pdata[i]);
}

/* ---- NAME.h ---- */

static void put_constants(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    emit_put(e, "\n#define %s_FINGERPRINT \"%s\"\n", e->upper, e->image->fingerprint);
    emit_put(e, "\nenum {");
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        char *name = lex_identifier(link->name, true);
        emit_put(e, " %s_LINK_%s,", e->upper, name);
        g_free(name);
    }
    emit_put(e, " %s_LINKS };\nenum {", e->upper);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        char *name = lex_identifier(((struct lex_output *)lx->outputs->pdata[i])->name, true);
        emit_put(e, " %s_OUTPUT_%s,", e->upper, name);
        g_free(name);
    }
    emit_put(e, " %s_OUTPUTS };\n", e->upper);
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        char *name = lex_identifier(((struct lex_input *)lx->inputs->pdata[i])->name, true);
        emit_put(e, "%s %s_INPUT_%s,", i ? "" : "enum {", e->upper, name);
        g_free(name);
    }
    if (lx->inputs->len) emit_put(e, " %s_INPUTS };\n", e->upper);
    for (unsigned i = 0; i < lx->routines->len; i++) {
        char *name = lex_identifier(((struct lex_routine *)lx->routines->pdata[i])->name, true);
        emit_put(e, "%s %s_ROUTINE_%s,", i ? "" : "enum {", e->upper, name);
        g_free(name);
    }
    if (lx->routines->len) emit_put(e, " %s_ROUTINES };\n", e->upper);
    for (unsigned i = 0; i < lx->reasons->len; i++) {
        char *name = lex_identifier(lx->reasons->pdata[i], true);
        emit_put(e, "%s %s_REFUSES_%s = -%u",
                 i ? "," : "/* A handler refuses by one of these. */\nenum {", e->upper, name,
                 RLX_ERR_REASON + i);
        g_free(name);
    }
    if (lx->reasons->len) emit_put(e, " };\n");
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        char *name = lex_identifier(link->name, true);
        emit_put(e, "#define %s_%s_BAUD %u\n", e->upper, name, link->baud);
        if (link->tags)
            emit_put(e, "#define %s_%s_WINDOW_MS %u /* a retry client's window_ms */\n", e->upper,
                     name, link->window);
        g_free(name);
    }
}

void emit_header(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    emit_made_by(e);
    emit_put(e,
             "#ifndef %s_H\n#define %s_H\n\n#include \"rlx/rlx.h\"\n\n#ifdef __cplusplus\nextern "
             "\"C\" {\n#endif\n",
             e->upper, e->upper);
    put_constants(e);
    char *title = emit_comment(lx->title ? lx->title : lx->name);
    emit_put(
        e,
        "\n/* %s, with all its memory. It must begin as zeros: make it static. */\nstruct %s {\n   "
        " "
        "struct rlx_device device;\n",
        title, lx->name);
    g_free(title);
    emit_put(e, "    struct rlx_link link[%s_LINKS];\n", e->upper);
    if (lx->outputs->len)
        emit_put(e, "    RLX_OUTPUTS(%s_OUTPUTS); /* output, of its kind each */\n", e->upper);
    if (lx->inputs->len) emit_put(e, "    struct rlx_input input[%s_INPUTS];\n", e->upper);
    if (lx->routines->len) emit_put(e, "    struct rlx_routine routine[%s_ROUTINES];\n", e->upper);
    if (lex_n_settings(lx)) emit_put(e, "    rlx_value setting[%u];\n", lex_n_settings(lx));
    if (e->image->setting_texts)
        emit_put(e, "    uint8_t setting_texts[%u];\n", e->image->setting_texts);
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        emit_put(e, "    uint8_t %s_buffer[RLX_LINK_BUFFER(%u, %u, %u)];\n", link->name,
                 link->receive, link->transmit, link->longest);
        if (link->tags)
            emit_put(e, "    struct rlx_sender %s_senders[%u];\n", link->name,
                     MAX(link->senders, 1));
        GPtrArray *keys = lex_keys_of(lx, link);
        if (link->seal)
            emit_put(e, "    struct rlx_session %s_sessions[%u];\n", link->name, keys->len);
        g_ptr_array_free(keys, TRUE);
        if (lex_drives_modem(link)) emit_put(e, "    struct rlx_sms %s_sms;\n", link->name);
    }
    if (lx->events->len)
        emit_put(e, "    struct rlx_pending events[%s_LINKS][%u];\n", e->upper, lx->events->len);
    emit_put(
        e,
        "};\n\n/* Starts it: puts the outputs into their safe states, then sends the greeting. "
        "`port` is the\n"
        " * first argument of every port function. Returns 0, or a negative error of rlx_init(). "
        "*/\n"
        "int %s_init(struct %s *%s, void *port, enum rlx_reset cause)\n"
        "    __attribute__((__warn_unused_result__));\n",
        lx->name, lx->name, lx->name);
    put_handlers(e);
    put_events(e);
    put_calls(e);
    put_settings(e);
    emit_put(e, "\n#ifdef __cplusplus\n}\n#endif\n\n#endif\n");
}
