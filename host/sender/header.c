/* Writes NAME_LINK.h: what can be asked, what can be heard, and the calls.
 * Texts of the lexicon go into comments, with "*" and "/" kept apart.
 * The client's own struct is put in by sender.c. */
#include "sender/sender_parts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "lexicon/write/emit_parts.h"
#include "rlx/hmac.h"
#include "rlx/def/errors.h"
#include "sender/sender.h"

/* A comment, in lines of up to 98 characters. A line of the text is one of it. */
static void put_comment(GString *out, const char *text)
{
    enum { LINE = 98 };
    gsize column = 2;
    g_string_append(out, "/*");
    while (*text) {
        gsize n = strcspn(text, " \n");
        if (column + 1 + n > LINE) {
            g_string_append(out, "\n *");
            column = 2;
        }
        g_string_append_printf(out, " %.*s", (int)n, text);
        column += 1 + n;
        text += n;
        if (*text == '\n') {
            g_string_append(out, "\n *");
            column = 2;
        }
        text += *text != 0;
    }
    g_string_append(out, " */\n");
}

/* ---- enums ---- */

static void put_requests(struct sender *s, GString *out)
{
    g_string_append_printf(
        out,
        "/* What can be asked. */\nenum %s_request {\n    %s_REQUEST_NONE, /* an "
        "event, or a line of the device's own */\n    %s_REQUEST_TEXT, /* "
        "%s_send_text() */\n",
        s->prefix, s->upper, s->upper, s->prefix);
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        char *name = g_ascii_strup(r->name, -1), *text = emit_comment(r->text);
        g_string_append_printf(out, "    %s_REQUEST_%s%s /* %s */\n", s->upper, name,
                               i + 1 == s->requests->len ? "" : ",", text);
        g_free(name), g_free(text);
    }
    g_string_append(out, "};\n\n");
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        for (unsigned k = 0; r->slots && k < r->slots->len; k++)
            if (lex_has_words(r->slots->pdata[k])) sender_put_enum(s, out, r, r->slots->pdata[k]);
    }
}

static void put_errors(struct sender *s, GString *out)
{
    g_string_append_printf(out,
                           "\n/* Why a device refuses. */\nenum %s_error {\n    %s_ERR_NONE = 0,\n",
                           s->prefix, s->upper);
#define ERROR(number, id, name, sentence) \
    g_string_append_printf(out, "    %s_ERR_%s = %d, /* %s */\n", s->upper, #id, number, sentence);
    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
    for (unsigned i = 0; i < s->lx->reasons->len; i++) {
        char *constant = sender_constant(s, "ERR_", s->lx->reasons->pdata[i]);
        g_string_append_printf(out, "    %s = %u,\n", constant, RLX_ERR_REASON + i);
        g_free(constant);
    }
    g_string_append_printf(
        out, "    %s_ERR_OTHER = 255 /* the answer does not say which */\n};\n\n", s->upper);
}

static void put_events(struct sender *s, GString *out)
{
    const GPtrArray *events = s->lx->events;
    g_string_append_printf(out,
                           "/* The events that the link brings. */\nenum %s_event {\n    "
                           "%s_EVENT_NONE",
                           s->prefix, s->upper);
    for (unsigned i = 0; i < events->len; i++) {
        const struct lex_event *event = events->pdata[i];
        char *constant = sender_constant(s, "EVENT_", event->name);
        if (sender_has_event(s, event))
            g_string_append_printf(out, ",\n    %s = %u", constant, i + 1);
        g_free(constant);
    }
    g_string_append(out, "\n};\n");
    for (unsigned i = 0; i < events->len; i++) {
        const struct lex_event *event = events->pdata[i];
        if (!event->what || !sender_has_event(s, event)) continue;
        char *upper = lex_identifier(event->name, true),
             *between = g_strdup_printf("EVENT_%s_", upper);
        char *name = lex_identifier(event->name, false);
        g_string_append_printf(out, "enum %s_event_%s {", s->prefix, name);
        for (unsigned k = 0; k < event->what->words->len; k++) {
            char *constant = sender_constant(s, between, event->what->words->pdata[k]);
            g_string_append_printf(out, "%s %s = %u", k ? "," : "", constant, k);
            g_free(constant);
        }
        g_string_append(out, " };\n");
        g_free(upper), g_free(between), g_free(name);
    }
    g_string_append_c(out, '\n');
}

/* ---- what is heard ---- */

/* Whether it has slots, and so a member. */
static bool has_member(const struct request *r)
{
    for (unsigned k = 0; r->slots && k < r->slots->len; k++)
        if (((const struct lex_element *)r->slots->pdata[k])->kind != LEX_WORD) return true;
    return false;
}

static void put_heard(struct sender *s, GString *out)
{
    const char *p = s->prefix, *u = s->upper;
    bool any = false;
    g_string_append_printf(
        out,
        "enum %s_what {\n"
        "    %s_DONE,       /* obeyed */\n"
        "    %s_ALREADY,    /* obeyed; it was so before */\n"
        "    %s_REFUSED,    /* not obeyed: `error` */\n"
        "    %s_UNANSWERED, /* no answer came: it was obeyed once, or not at all */\n"
        "    %s_SENT,       /* the link brings no answers: nobody knows */\n"
        "    %s_DROPPED,    /* never sent: a halt or a newer command took its place */\n"
        "    %s_EVENT,      /* an event: `event`, `word` */\n"
        "    %s_STARTED,    /* the device starts: `known` */\n"
        "    %s_NOTE        /* a line of the device's own: `text` */\n"
        "};\n\n",
        p, u, u, u, u, u, u, u, u, u);
    g_string_append_printf(
        out,
        "/* The result of a request, or what the device sent by itself. */\nstruct %s_heard {\n"
        "    enum %s_what what;\n"
        "    enum %s_request request; /* that this is about */\n"
        "    bool valued;        /* `is` has the answer's values */\n"
        "    bool known;         /* of STARTED: it runs this very lexicon */\n"
        "    bool confirmed;     /* of EVENT: the device sends it until it is acknowledged, which\n"
        "                           this sender does */\n"
        "    bool repeated;      /* of EVENT: the same number of this event as the last one */\n"
        "    int8_t on;          /* what the output is now, on 1 or off 0; -1: the answer does not "
        "say */\n"
        "    uint8_t event;      /* enum %s_event */\n"
        "    uint8_t word;       /* of the event: its enum; 255: it has none */\n"
        "    uint8_t number;     /* of a confirmed event */\n"
        "    uint8_t error;      /* enum %s_error */\n"
        "    uint8_t at;         /* of REFUSED: at which byte of the frame; 255: it does not say "
        "*/\n"
        "    uint8_t count;      /* bytes of text */\n"
        "    uint32_t waits_ms;  /* the output does it so much later, by its minimum times */\n"
        "    const char *text;   /* text of the answer or event, not ended by a 0; valid during "
        "the "
        "call */\n",
        p, p, p, p, p);
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        if (!has_member(r)) continue;
        if (!any) g_string_append(out, "    union {\n");
        any = true;
        g_string_append(out, "        struct {\n");
        for (unsigned k = 0; k < r->slots->len; k++)
            sender_put_member(s, out, r, r->slots->pdata[k]);
        g_string_append_printf(out, "        } %s;\n", r->member);
    }
    if (any) g_string_append(out, "    } is; /* by `request`, if `valued` */\n");
    g_string_append(out, "};\n\n");
}

/* ---- the calls ---- */

void sender_put_prototype(struct sender *s, GString *out, const struct request *r)
{
    enum { LINE = 100 };
    char *head = g_strdup_printf(
        "enum %s_result %s_%s%s(", s->prefix, s->prefix,
        r->kind == REQUEST_COMMAND || r->kind == REQUEST_BUILT_IN ? "send_" : "", r->name);
    GPtrArray *arguments = g_ptr_array_new_with_free_func(g_free);
    size_t length = strlen(head);
    g_ptr_array_add(arguments, g_strdup_printf("struct %s *s", s->prefix));
    for (unsigned k = 0; k < r->sent; k++) {
        char *one = sender_argument(s, r, r->slots->pdata[k]);
        if (one) g_ptr_array_add(arguments, one);
    }
    for (unsigned i = 0; i < arguments->len; i++) length += strlen(arguments->pdata[i]) + 2;
    g_string_append(out, head);
    for (unsigned i = 0; i < arguments->len; i++)
        g_string_append_printf(out, "%s%s%s", i ? "," : "",
                               !i              ? ""
                               : length > LINE ? "\n    "
                                               : " ",
                               (char *)arguments->pdata[i]);
    g_string_append_c(out, ')');
    g_ptr_array_free(arguments, TRUE);
    g_free(head);
}

static void put_calls(struct sender *s, GString *out)
{
    for (unsigned i = 0; i < s->requests->len; i++) {
        const struct request *r = s->requests->pdata[i];
        char *both = g_strconcat(r->text, r->title ? ": " : "", r->title ? r->title : "", NULL);
        char *comment = emit_comment(both);
        g_string_append_printf(out, "/* %s */\n", comment);
        sender_put_prototype(s, out, r);
        g_string_append(out, ";\n");
        g_free(comment), g_free(both);
    }
}

/* In words: what the bytes are that go in, or out. */
static const char *unit_of(const struct lex_link *link, bool out)
{
    if (link->medium == LEX_SMS) return "one text message";
    if (link->frame == LEX_FRAME_REPORT) return "reports of 64 bytes, one or several";
    if (lex_packet_bytes(link)) return "one packet";
    return out ? "one frame with its end" : "a stream, in any pieces";
}

static void put_head(struct sender *s, GString *out)
{
    const char *p = s->prefix, *u = s->upper;
    char *title = emit_comment(s->lx->title ? s->lx->title : s->lx->name);
    char *manner = sender_manner(s->link), *defines = sender_defines(s);
    char *head = g_strdup_printf(
        "The sender's side of link %s of %s %u (%s), fingerprint %s.\n"
        "A function for each command, and a reader for what comes back. C99 and C++, no heap, no "
        "library: compile %s.c with your program.\n%s\n"
        "Your program has two functions, %s_on_write() and %s_on_heard(); see below. Call all of "
        "this from the main loop, never from an interrupt.",
        s->link->name, s->lx->name, s->lx->version, title, s->image->fingerprint, p, manner, p, p);
    put_comment(out, head);
    g_string_append_printf(out,
                           "#ifndef %s_H\n#define %s_H\n\n#include <stdbool.h>\n#include "
                           "<stdint.h>\n\n#ifdef __cplusplus\nextern \"C\" {\n#endif\n\n"
                           "/* Commands that can wait, 1..255. Each takes memory. */\n#ifndef "
                           "%s_QUEUE\n#define %s_QUEUE 4\n#endif\n%s",
                           u, u, u, u, defines);
    g_free(head), g_free(manner), g_free(title), g_free(defines);
}

static void put_results(const struct sender *s, GString *out)
{
    const char *u = s->upper;
    g_string_append_printf(
        out,
        "enum %s_result {\n"
        "    %s_QUEUED = 0,\n"
        "    %s_OUT_OF_RANGE, /* a value is beyond its bounds: nothing is sent */\n"
        "    %s_BAD_TEXT,     /* a text has a character that it cannot have */\n"
        "    %s_TOO_LONG,     /* the command is longer than the link takes */\n"
        "    %s_NO_KEY,       /* the link has no key, or no row of bytes, for this command */\n"
        "    %s_QUEUE_FULL    /* try again after the next answer */\n"
        "};\n\n",
        s->prefix, u, u, u, u, u, u);
}

/* `client`: the struct of the retry client. */
static void put_struct(const struct sender *s, GString *out, const char *client)
{
    const char *p = s->prefix;
    unsigned frame = sender_frame_bytes(s->link);
    g_string_append_printf(out, "/* The retry client inside. All of it is private. */\n%s", client);
    g_string_append_printf(out, "\nstruct %s {\n    void *user; /* yours */\n", p);
    if (s->link->code)
        g_string_append(
            out, "    const char *code; /* set it: the code that each command begins with */\n");
    if (s->link->seal)
        g_string_append(
            out,
            "    /* Set it, where this sender has another key than the first one: the text of the\n"
            "     * first one, with which the device seals events. NULL: it hears none. */\n"
            "    const char *key_to_all;\n");
    g_string_append_printf(out,
                           "    /* Private. */\n"
                           "    struct %s_client client;\n"
                           "    struct %s_client_command queue[%s_QUEUE];\n"
                           "    struct %s_heard heard;\n",
                           p, p, s->upper, p);
    if (frame)
        g_string_append_printf(out,
                               "    uint8_t frame[%u], received, looked;\n"
                               "    bool overflow;\n    uint32_t since;\n",
                               frame);
    if (s->link->layout)
        g_string_append(out, "    uint32_t number, awaited, now, free;\n    uint8_t row;\n");
    g_string_append(out, "    uint16_t confirmed;\n};\n\n");
}

char *sender_init_arguments(const struct sender *s)
{
    if (s->link->seal)
        return g_strdup_printf(", enum %s_key key, const char *text, uint32_t random", s->prefix);
    return g_strconcat(s->link->senders ? ", uint8_t source" : "",
                       s->link->tags ? ", uint16_t start" : "", NULL);
}

char *sender_init_given(const struct sender *s)
{
    if (s->link->seal) return g_strdup(", key, text, random");
    return g_strconcat(s->link->senders ? ", source" : "", s->link->tags ? ", start" : "", NULL);
}

/* The keys of a link with seals. */
static void put_key_names(const struct sender *s, GString *out)
{
    GPtrArray *keys = lex_keys_of(s->lx, s->link);
    g_string_append_printf(out, "/* The keys of the link. */\nenum %s_key {\n", s->prefix);
    for (unsigned i = 0; i < keys->len; i++) {
        const struct lex_seal_key *key = keys->pdata[i];
        char *name = lex_identifier(key->name, true);
        g_string_append_printf(out, "    %s_KEY_%s = %u%s", s->upper, name, i + 1,
                               i + 1 < keys->len ? "," : "");
        if (key->sender) g_string_append_printf(out, " /* of sender %u */", key->sender);
        g_string_append_c(out, '\n');
        g_free(name);
    }
    g_string_append(out, "};\n\n");
    g_ptr_array_free(keys, TRUE);
}

/* What init wants to know. */
static char *starts_with(const struct sender *s)
{
    if (s->link->seal)
        return g_strdup_printf(
            " `key`: which key this sender has. `text`: its %u..%u characters, ended by a 0; they "
            "are kept where they are. `random`: another number at each start, from a noise source "
            "if there is one; with a number that was used before, recorded answers can deceive "
            "this sender.",
            RLX_HMAC_KEY_LEAST, RLX_HMAC_KEY_MOST);
    return g_strconcat(s->link->senders
                           ? " `source`: the number of this sender, 1..32, which nobody else has."
                           : "",
                       s->link->tags ? " `start`: its first tag, best a random number." : "", NULL);
}

/* What the main loop calls, and what it has to have. */
static void put_loop(const struct sender *s, GString *out)
{
    const char *p = s->prefix;
    char *arguments = sender_init_arguments(s), *with = starts_with(s);
    char *starts = g_strdup_printf("Starts it; keeps `user`%s.%s Returns 0, or %s_OUT_OF_RANGE.",
                                   s->link->seal ? " and `key_to_all`" : "", with, s->upper);
    put_comment(out, starts);
    g_free(starts), g_free(with);
    g_string_append_printf(
        out,
        "int %s_init(struct %s *s%s);\n\n"
        "/* Takes received bytes: %s. */\n"
        "void %s_receive(struct %s *s, const uint8_t *bytes, uint16_t count);\n\n"
        "/* Sends what is due. Returns the milliseconds until the next call is due; UINT32_MAX: "
        "when\n"
        " * something is sent or received. */\n"
        "uint32_t %s_poll(struct %s *s, uint32_t now_ms);\n\n"
        "/* Write these two. The first one sends bytes, all of them: %s.\n"
        " * Or false: then it is called again a millisecond later. */\n"
        "bool %s_on_write(struct %s *s, const uint8_t *bytes, uint8_t count);\n"
        "/* A result or an event came. It may send. */\n"
        "void %s_on_heard(struct %s *s, const struct %s_heard *heard);\n\n",
        p, p, arguments, unit_of(s->link, false), p, p, p, p, unit_of(s->link, true), p, p, p, p,
        p);
    g_free(arguments);
}

char *sender_header(struct sender *s, const char *client)
{
    const char *p = s->prefix;
    GString *out = g_string_new(NULL);
    put_head(s, out);
    put_requests(s, out);
    put_errors(s, out);
    put_events(s, out);
    put_heard(s, out);
    put_results(s, out);
    if (s->link->seal) put_key_names(s, out);
    put_struct(s, out, client);
    put_loop(s, out);
    g_string_append_printf(out,
                           "/* Each of these queues one command and returns at once. */\n\n"
                           "/* Any text of at most %u bytes, a batch for instance. */\n"
                           "enum %s_result %s_send_text(struct %s *s, const char *text);\n",
                           sender_command_bytes(s), p, p, p);
    put_calls(s, out);
    g_string_append_printf(out, "\n#ifdef __cplusplus\n}\n#endif\n\n#endif\n");
    return g_string_free(out, FALSE);
}
