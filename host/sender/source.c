/* Writes what is particular in NAME_LINK.c: the readers of answers and events, and the functions.
 * What any sender has is in parts/.
 * The C of one slot is in slots.c. */
#include "sender/sender_parts.h"

#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "rlx/def/errors.h"
#include "rlx/drive.h"

static void put(GString *out, const char *format, const char *text)
{
    char *literal = sender_literal(text);
    g_string_append_printf(out, format, literal);
    g_free(literal);
}

/* ---- answers ---- */

/* What the readers of these slots declare. */
static void put_locals(GString *out, const GPtrArray *slots)
{
    bool number = false, word = false;
    for (unsigned i = 0; slots && i < slots->len; i++) {
        number |= lex_has_numbers(slots->pdata[i]);
        word |= lex_has_words(slots->pdata[i]);
    }
    if (number) g_string_append(out, "    int32_t number;\n");
    if (word) g_string_append(out, "    uint16_t word;\n");
}

/* Whether the answer has on or off in the place of this word: a toggle's last one. */
static bool is_replaced(const struct request *r, const struct lex_element *e)
{
    const struct lex_effect *effect = r->command ? &r->command->effect : NULL;
    return effect && effect->kind == LEX_SWITCH && effect->fixed == RLX_TOGGLE &&
           e == r->slots->pdata[r->slots->len - 1] && !g_ascii_strcasecmp(e->text, "toggle");
}

/* What stands behind `ok `. */
static void put_reader(struct sender *s, GString *out, const struct request *r)
{
    bool first = true;
    g_string_append_printf(out, "static bool hear_%s(struct %s_heard *heard, struct heard h)\n{\n",
                           r->name, s->prefix);
    put_locals(out, r->slots);
    if (r->word) {
        put(out, "    if (!take_text(&h, ROM(\"%s\"))) return false;\n", r->word);
        first = false;
    }
    for (unsigned i = 0; r->slots && i < r->slots->len; i++) {
        const struct lex_element *e = r->slots->pdata[i];
        if (e->filler) continue;
        if (!first) g_string_append(out, "    if (!take_char(&h, ' ')) return false;\n");
        first = false;
        if (e->kind == LEX_WORD && is_replaced(r, e))
            g_string_append(out, "    note_switched(heard, h);\n"
                                 "    if (!take_switched(&h)) return false;\n");
        else if (e->kind == LEX_WORD)
            put(out, "    if (!take_text(&h, ROM(\"%s\"))) return false;\n", lex_spelling(e, 0));
        else
            sender_put_hear(s, out, r, e, -1);
    }
    switch (r->kind) {
    case REQUEST_COMMAND: g_string_append(out, "    return hear_end(heard, h);\n}\n\n"); break;
    case REQUEST_QUERY:
    case REQUEST_SETTING:
        g_string_append(out, "    heard->valued = true;\n    return is_over(&h);\n}\n\n");
        break;
    case REQUEST_STATE:
        g_string_append(out, "    if (!take_char(&h, ' ')) return false;\n    note_switched(heard, "
                             "h);\n    return true;\n}\n\n");
        break;
    case REQUEST_BUILT_IN:
        g_string_append(out, "    (void)heard;\n    return is_over(&h) || *h.at == ' ';\n}\n\n");
        break;
    }
}

/* An answer of the command's own. */
static void put_own_reader(struct sender *s, GString *out, const struct request *r, bool already)
{
    const char *at = already ? r->command->already : r->command->says, *next;
    GPtrArray *slots = g_ptr_array_new();
    for (unsigned i = 0; i < r->slots->len; i++)
        if (((struct lex_element *)r->slots->pdata[i])->kind != LEX_WORD)
            g_ptr_array_add(slots, r->slots->pdata[i]);
    g_string_append_printf(out,
                           "static bool hear_%s_%s(struct %s_heard *heard, struct heard h)\n{\n",
                           already ? "already" : "own", r->name, s->prefix);
    struct answer_piece piece;
    GPtrArray *used = g_ptr_array_new();
    for (const char *p = at; (p = answer_next(r->command, p, &piece));)
        if (piece.slot >= 0 && piece.slot < (int)slots->len)
            g_ptr_array_add(used, slots->pdata[piece.slot]);
    put_locals(out, used);
    bool all = used->len >= slots->len;
    while ((next = answer_next(r->command, at, &piece))) {
        if (piece.slot < 0) {
            char *text = g_strndup(piece.text, piece.length);
            put(out, "    if (!take_text(&h, ROM(\"%s\"))) return false;\n", text);
            g_free(text);
        } else {
            sender_put_hear(s, out, r, slots->pdata[piece.slot], (guchar)*next);
        }
        at = next;
    }
    if (already)
        g_string_append_printf(out,
                               "    heard->what = %s_ALREADY;\n    heard->valued = %s;\n"
                               "    return is_over(&h);\n}\n\n",
                               s->upper, all ? "true" : "false");
    else
        g_string_append_printf(out,
                               "    bool is = hear_end(heard, h);\n    heard->valued = %s;\n"
                               "    return is;\n}\n\n",
                               all ? "true" : "false");
    g_ptr_array_free(used, TRUE);
    g_ptr_array_free(slots, TRUE);
}

static bool is_own(const struct sender *s, const struct request *r)
{
    return r->command && answer_is_on(r->command, s->link);
}

/* `is` is C that says what an own text of the link stands for. */
static void put_own_text(GString *out, const struct lex_text *own, const char *is)
{
    struct answer_piece piece;
    if (!*own->text) return; /* it sends nothing */
    own_text_next(own, own->text, &piece);
    bool all = piece.length == strlen(own->text); /* else a field stands behind this piece */
    char *text = g_strndup(own->text, piece.length);
    put(out, all ? "    if (is_text(h, ROM(\"%s\"))) {\n" : "    if (begins(h, ROM(\"%s\"))) {\n",
        text);
    g_free(text);
    g_string_append_printf(out, "%s        return true;\n    }\n", is);
}

/* The number of an error by its name, or -1. */
static int error_number(const struct sender *s, const char *name)
{
#define NUMBER(number, id, word, sentence) \
    if (!strcmp(name, word)) return number;
    RLX_REPLY_ERRORS(NUMBER)
#undef NUMBER
    for (unsigned i = 0; i < s->lx->reasons->len; i++)
        if (!strcmp(s->lx->reasons->pdata[i], name)) return RLX_ERR_REASON + (int)i;
    return -1;
}

/* The link's own texts for answers: what is told apart first, errors by name before `err`. */
static void put_own_answers(struct sender *s, GString *out)
{
    for (unsigned pass = 0; pass < 2; pass++)
        for (unsigned i = 0; i < s->link->texts->len; i++) {
            const struct lex_text *own = s->link->texts->pdata[i];
            bool named = g_str_has_prefix(own->what, "err ");
            if (named == (pass != 0)) continue;
            int number = named ? error_number(s, own->what + strlen("err ")) : -1;
            char *is = NULL;
            if (!strcmp(own->what, "ok") || !strcmp(own->what, "already"))
                is = g_strdup_printf("        heard->what = %s_%s;\n", s->upper,
                                     own->what[0] == 'o' ? "DONE" : "ALREADY");
            else if (named || !strcmp(own->what, "err"))
                is = g_strdup_printf(
                    "        heard->what = %s_REFUSED;\n        heard->error = %d;\n"
                    "        heard->at = 255;\n",
                    s->upper, number < 0 ? 255 : number);
            if (is) put_own_text(out, own, is);
            g_free(is);
        }
}

static void put_answers(struct sender *s, GString *out)
{
    bool own = false;
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        put_reader(s, out, r);
        if (!is_own(s, r)) continue;
        own = true;
        put_own_reader(s, out, r, false);
        if (r->command->already) put_own_reader(s, out, r, true);
    }
    g_string_append_printf(
        out,
        "/* Whether it answers this request, and how. */\nstatic bool "
        "hear_answer(struct %s_heard *heard, uint16_t request, struct heard h)\n{\n",
        s->prefix);
    put_own_answers(s, out);
    g_string_append_printf(out,
                           "    if (hear_refused(heard, h)) return true;\n"
                           "    heard->what = %s_DONE;\n    heard->error = %s_ERR_NONE;\n"
                           "    heard->at = 255;\n",
                           s->upper, s->upper);
    if (own) {
        g_string_append(out, "    switch (request) {\n");
        for (unsigned i = 0; i < s->requests->len; i++) {
            const struct request *r = s->requests->pdata[i];
            if (!is_own(s, r)) continue;
            char *upper = g_ascii_strup(r->name, -1);
            g_string_append_printf(out, "    case %s_REQUEST_%s:\n        ", s->upper, upper);
            if (r->command->already)
                g_string_append_printf(out,
                                       "if (hear_already_%s(heard, h)) return true;\n        "
                                       "heard->what = %s_DONE;\n        ",
                                       r->name, s->upper);
            g_string_append_printf(out,
                                   "if (hear_own_%s(heard, h)) return true;\n        "
                                   "heard->what = %s_DONE;\n        break;\n",
                                   r->name, s->upper);
            g_free(upper);
        }
        g_string_append(out, "    default: break;\n    }\n");
    }
    char *already = /* behind a power cut that is all */
        g_strdup_printf(
            "    if (is_text(h, ROM(\"already\"))) {\n        heard->what = %s_ALREADY;\n"
            "        return true;\n    }\n",
            s->upper);
    g_string_append_printf(out,
                           "    if (!take_text(&h, ROM(\"ok\"))) return false;\n"
                           "    if (is_over(&h)) return true; /* a short one */\n"
                           "    if (!take_char(&h, ' ')) return false;\n"
                           "    heard->text = h.at;\n"
                           "    heard->count = (uint8_t)(h.end - h.at);\n"
                           "    if (is_text(h, ROM(\"newer\"))) {\n"
                           "        heard->what = %s_DROPPED;\n        return true;\n    }\n"
                           "%s    switch (request) {\n",
                           s->upper, s->link->tags_kept ? already : "");
    g_free(already);
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        char *upper = g_ascii_strup(r->name, -1);
        g_string_append_printf(out, "    case %s_REQUEST_%s: return hear_%s(heard, h);\n", s->upper,
                               upper, r->name);
        g_free(upper);
    }
    g_string_append(out, "    default: return true;\n    }\n}\n\n");
}

/* ---- events ---- */

static char *event_is(struct sender *s, unsigned event, unsigned word)
{
    return g_strdup_printf("        heard->what = %s_EVENT;\n        heard->event = %u;\n"
                           "        heard->word = %u;\n",
                           s->upper, event + 1, word);
}

/* The link's own texts for events: "ev call", "ev call pressed". */
static void put_own_events(struct sender *s, GString *out)
{
    for (unsigned i = 0; i < s->link->texts->len; i++) {
        const struct lex_text *own = s->link->texts->pdata[i];
        if (!strcmp(own->what, "note")) {
            char *is = g_strdup_printf("        heard->what = %s_NOTE;\n", s->upper);
            put_own_text(out, own, is);
            g_free(is);
        }
        if (!strcmp(own->what, "ready")) { /* which lexicon it is nobody knows */
            char *is = g_strdup_printf("        heard->what = %s_STARTED;\n", s->upper);
            put_own_text(out, own, is);
            g_free(is);
        }
        for (unsigned k = 0; g_str_has_prefix(own->what, "ev ") && k < s->lx->events->len; k++) {
            const struct lex_event *event = s->lx->events->pdata[k];
            char **parts = g_strsplit(own->what, " ", 3);
            guint word = 255;
            if (!strcmp(parts[1], event->name)) {
                if (parts[2] && event->what)
                    g_ptr_array_find_with_equal_func(event->what->words, parts[2], g_str_equal,
                                                     &word);
                char *is = event_is(s, k, word);
                put_own_text(out, own, is);
                g_free(is);
            }
            g_strfreev(parts);
        }
    }
}

static void put_event(struct sender *s, GString *out, unsigned index)
{
    const struct lex_event *event = s->lx->events->pdata[index];
    put(out,
        "    h = name;\n    if (take_text(&h, ROM(\"%s\")) && (is_over(&h) || *h.at == ' ')) {\n",
        event->name);
    g_string_append_printf(out, "        heard->event = %u;\n", index + 1);
    if (event->what) {
        g_string_append_printf(out, "        if (take_char(&h, ' ') && take_word(&h, %u, ROM(",
                               event->what->words->len);
        for (unsigned k = 0; k < event->what->words->len; k++)
            put(out, k ? " \"%s\\0\"" : "\"%s\\0\"", event->what->words->pdata[k]);
        g_string_append(out, "), &word)) heard->word = (uint8_t)word;\n");
    }
    g_string_append(out, "        return true;\n    }\n");
}

static void put_event_reader(struct sender *s, GString *out)
{
    bool worded = false;
    for (unsigned i = 0; i < s->lx->events->len; i++) {
        const struct lex_event *event = s->lx->events->pdata[i];
        worded |= event->what && sender_has_event(s, event);
    }
    g_string_append_printf(
        out,
        "/* Whether the device sent it by itself, and what it is. */\nstatic bool "
        "hear_event(struct %s_heard *heard, struct heard h)\n{\n",
        s->prefix);
    if (worded) g_string_append(out, "    uint16_t word;\n");
    g_string_append(out, "    int32_t number;\n    heard->word = 255;\n");
    put_own_events(s, out);
    g_string_append_printf(
        out,
        "    if (take_text(&h, ROM(\"note \"))) {\n"
        "        heard->what = %s_NOTE;\n        heard->text = h.at;\n"
        "        heard->count = (uint8_t)(h.end - h.at);\n        return true;\n"
        "    }\n"
        "    if (take_text(&h, ROM(\"ready \"))) {\n"
        "        heard->what = %s_STARTED;\n"
        "        heard->known = take_text(&h, ROM(\"%s %u %s\"));\n"
        "        return true;\n    }\n"
        "    if (!take_text(&h, ROM(\"ev \"))) return false;\n"
        "    heard->what = %s_EVENT;\n"
        "    heard->text = h.at;\n    heard->count = (uint8_t)(h.end - h.at);\n"
        "    if (take_char(&h, '#')) {\n"
        "        if (!take_whole(&h, 0, 255, &number) || !take_char(&h, ' ')) return "
        "false;\n"
        "        heard->confirmed = true;\n        heard->number = (uint8_t)number;\n"
        "    }\n",
        s->upper, s->upper, s->lx->name, s->lx->version, s->image->fingerprint, s->upper);
    bool any = false;
    for (unsigned i = 0; i < s->lx->events->len; i++) {
        if (!sender_has_event(s, s->lx->events->pdata[i])) continue;
        if (!any) g_string_append(out, "    const struct heard name = h;\n");
        any = true;
        put_event(s, out, i);
    }
    g_string_append(out, "    return true;\n}\n\n");
}

void sender_put_readers(struct sender *s, GString *out)
{
    g_string_append(out, "/* ---- what comes back ---- */\n\n");
    put_answers(s, out);
    put_event_reader(s, out);
}

/* ---- the functions ---- */

static void put_function(struct sender *s, GString *out, const struct request *r)
{
    char *upper = g_ascii_strup(r->name, -1);
    bool first = true;
    sender_put_prototype(s, out, r);
    g_string_append(out, "\n{\n    struct line line;\n    begin_line(&line);\n");
    if (r->kind != REQUEST_COMMAND) {
        char *word = g_strndup(r->text, strcspn(r->text, " ")); /* a query's slots are below */
        put(out, "    put_text(&line, ROM(\"%s\"));\n", word);
        g_free(word);
        first = false;
    }
    if (r->kind == REQUEST_BUILT_IN && !strcmp(r->word, "halt"))
        g_string_append_printf(
            out, "    %s_client_drop(&s->client); /* nothing is obeyed behind it */\n", s->prefix);
    for (unsigned i = 0; i < r->sent; i++) {
        const struct lex_element *e = r->slots->pdata[i];
        if (e->filler) continue;
        if (!first) g_string_append(out, "    put_char(&line, ' ');\n");
        first = false;
        sender_put_say(out, r, e);
    }
    g_string_append_printf(out, "    return queue(s, &line, %s_REQUEST_%s, %s);\n}\n\n", s->upper,
                           upper, r->newest ? "true" : "false");
    g_free(upper);
}

void sender_put_functions(struct sender *s, GString *out)
{
    g_string_append(out, "/* ---- the commands ---- */\n\n");
    for (unsigned i = 0; i < s->requests->len; i++) put_function(s, out, s->requests->pdata[i]);
}
