/* Works examples of frames out, for the card.
 * The envelope is that of lexicon/envelope.c, which is written apart from the library; what ends a
 * frame is the framing's own.
 * It chooses the command; it does not know what it does. */
#include "lexicon/layout/layout.h"
#include "lexicon/write/worked.h"

#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/envelope.h"
#include "lexicon/framing.h"
#include "rlx/def/replies.h"
#include "rlx/image.h"
#include "rlx/wire.h"

/* As one who says all that may be said around a command. */
static struct lex_link whole(const struct lex_link *link)
{
    struct lex_link all = *link;
    if (all.check) all.check = LEX_DEMAND_REQUIRED;
    return all;
}

/* What ends or fills it: a line in reports ends with a zero, and fills the report with them. */
static void complete(const struct lex_link *link, GString *frame, const char *line_end)
{
    const struct lex_framing *framing = lex_framing_of(link);
    if (framing->complete) framing->complete(link, frame, line_end);
    if (framing->piece) g_string_append(frame, line_end);
    while (framing->piece && frame->len % framing->piece) g_string_append_c(frame, 0);
}

/* Takes them over. */
static GString *worked_bytes(GByteArray *bytes)
{
    GString *frame = g_string_new(NULL);
    if (bytes) {
        g_string_append_len(frame, (const char *)bytes->data, bytes->len);
        g_byte_array_free(bytes, TRUE);
    }
    return frame;
}

GString *worked_frame(const struct lex_link *link, const char *text)
{
    struct lex_link all = whole(link);
    if (link->layout) return worked_bytes(layout_encode(link, text, 1));
    char *around = lex_is_keyed(link) ? g_strdup(text) : envelope_around(&all, RLX_TAG_OPENS, text);
    GString *frame = g_string_new(around);
    if (!lex_is_keyed(link)) complete(link, frame, "\r");
    g_free(around);
    return frame;
}

/* An answer of this text, with all that stands around it. */
static GString *enveloped(const struct lex_link *link, const char *text, const char *frame)
{
    struct lex_link all = whole(link);
    GString *answer = g_string_new(NULL);
    if (lex_is_keyed(link)) g_string_append_c(answer, RLX_REPLY_LEAD);
    if (link->address >= 0)
        g_string_append_printf(answer, "@%u/%d ", link->senders ? ENVELOPE_SOURCE : 0u,
                               link->address);
    if (link->tags) g_string_append_printf(answer, "#%u ", (unsigned)RLX_TAG_OPENS);
    g_string_append(answer, text);
    if (all.check) envelope_check(answer, link->tags ? envelope_sum(frame) : RLX_CRC_START);
    return answer;
}

/* The answer to it, where it is obeyed for the first time; the short one where a frame holds no
 * other. */
static GString *answer_to(const struct lexicon *lx, const struct lex_link *link,
                          const char *command, const char *frame)
{
    if (link->replies != LEX_REPLIES_FULL || answers_are_own(lx, link) || link->one_way)
        return NULL;
    unsigned most = link->length ? link->length : lex_packet_bytes(link);
    char *full = g_strconcat(RLX_TXT_OK " ", command, NULL);
    GString *answer = enveloped(link, full, frame);
    if (most && answer->len > most) {
        g_string_free(answer, TRUE);
        answer = enveloped(link, RLX_TXT_OK, frame);
    }
    g_free(full);
    if (lex_is_keyed(link))
        g_string_append(answer, lex_end_bytes[link->answer_end]);
    else
        complete(link, answer, lex_end_bytes[link->answer_end]);
    return answer;
}

/* The first command without a slot but choices that the link accepts, in its plainest words; a
 * toggle's answer depends. Owned by the caller. */
static char *plain_command(const struct lexicon *lx, const struct lex_link *link)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        GString *text = g_string_new(NULL);
        bool plain = lex_may_say(link, command) && !answer_is_on(command, link);
        for (unsigned k = 0; plain && k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            const char *word = e->kind == LEX_WORD     ? lex_spelling(e, 0)
                               : e->kind == LEX_CHOICE ? (const char *)e->words->pdata[0]
                                                       : NULL;
            if (e->filler) continue;
            plain = word && strcmp(word, "toggle") != 0;
            if (plain) g_string_append_printf(text, "%s%s", text->len ? " " : "", word);
        }
        if (plain && command->effect.fixed != RLX_TOGGLE) return g_string_free(text, FALSE);
        g_string_free(text, TRUE);
    }
    return NULL;
}

bool worked_example(const struct lexicon *lx, const struct lex_link *link, struct worked *worked)
{
    const struct lex_key *key = link->keys->len ? link->keys->pdata[0] : NULL;
    *worked = (struct worked){0};
    if (link->seal || link->code) return false; /* nobody is shown a code */
    if (lex_is_raw(link)) return false;
    if (link->layout) {
        GByteArray *answer = layout_answer(link, NULL, 0, 1);
        worked->command = layout_example(link, NULL);
        worked->frame = worked_frame(link, worked->command);
        if (answer) layout_wrap(link, answer);
        if (answer) worked->answer = worked_bytes(answer);
        return true;
    }
    if (lex_is_keyed(link)) {
        bool digits = !key || (link->frame == LEX_FRAME_CODES && strchr(key->code, '#'));
        if (digits || strstr(key->text, "toggle")) return false;
        worked->command = g_strdup(key->text);
        worked->frame = worked_frame(link, key->code);
    } else {
        worked->command = plain_command(lx, link);
        if (!worked->command) return false;
        worked->frame = worked_frame(link, worked->command);
    }
    if (!lex_is_keyed(link)) {
        struct lex_link all = whole(link);
        char *bare = envelope_around(&all, RLX_TAG_OPENS, worked->command);
        worked->answer = answer_to(lx, link, worked->command, bare);
        g_free(bare);
    }
    return true;
}

void worked_clear(struct worked *worked)
{
    g_free(worked->command);
    if (worked->frame) g_string_free(worked->frame, TRUE);
    if (worked->answer) g_string_free(worked->answer, TRUE);
}

char *worked_form(const struct lex_link *link)
{
    GString *form = g_string_new(NULL);
    if (link->address >= 0)
        g_string_append_printf(form, "@%d%s ", link->address, link->senders ? "/SOURCE" : "");
    if (link->tags) g_string_append(form, "#TAG ");
    if (link->seal) g_string_append(form, "!KEY.COUNTER.CODE ");
    if (!form->len && !link->check) {
        g_string_free(form, TRUE);
        return NULL;
    }
    g_string_append(form, link->check ? "COMMAND*CHECK" : "COMMAND");
    return g_string_free(form, FALSE);
}

char *worked_shown(const GString *bytes)
{
    GString *out = g_string_new(NULL);
    for (gsize i = 0; i < bytes->len; i++) {
        guchar c = (guchar)bytes->str[i];
        gsize n = i;
        while (n < bytes->len && (guchar)bytes->str[n] == c) n++;
        if (!c && n - i > 1) { /* what fills a report */
            g_string_append_printf(out, "<%" G_GSIZE_FORMAT " zeros>", n - i);
            i = n - 1;
        } else if (c == '\r' || c == '\n') {
            g_string_append(out, c == '\r' ? "<CR>" : "<LF>");
        } else if (g_ascii_isprint(c)) {
            g_string_append_c(out, (char)c);
        } else {
            g_string_append_printf(out, "<%02X>", c);
        }
    }
    return g_string_free(out, FALSE);
}
