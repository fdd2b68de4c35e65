/* The commands' own answers: a list of the image.
 * A slot that is left out becomes the text of its default, so that the device finds all others in
 * the frame. Which links send them follows from the lexicon. */
#include <string.h>

#include "lexicon/answers.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "lexicon/write/build.h"

static char *key_of(const struct lex_command *command, unsigned given)
{
    return g_strdup_printf("%p/%u", (const void *)command, given);
}

/* The slot with this number, and the number of its first value. */
static const struct lex_element *slot_of(const struct lex_command *command, unsigned number,
                                         unsigned *value)
{
    *value = 0;
    for (unsigned i = 0, slot = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        if (slot++ == number) return e;
        *value += lex_slot_values(e);
    }
    return NULL;
}

/* A slot that is a toggle where it is left out holds what came of it. */
static bool is_toggle(const struct lex_command *command, const struct lex_element *e)
{
    return command->effect.kind == LEX_SWITCH && command->effect.fixed < 0 && e->optional &&
           lex_is_verbs(e) && !g_ascii_strcasecmp(e->words->pdata[e->fallback], "toggle");
}

static void put_answer(GByteArray *to, const struct lex_command *command, const char *answer,
                       unsigned given)
{
    struct answer_piece piece;
    GString *text = g_string_new(NULL);
    while (answer && (answer = answer_next(command, answer, &piece))) {
        unsigned value;
        const struct lex_element *e =
            piece.slot >= 0 ? slot_of(command, (unsigned)piece.slot, &value) : NULL;
        if (!e) {
            g_string_append_len(text, piece.text, (gssize)piece.length);
        } else if ((unsigned)piece.slot < given || is_toggle(command, e)) {
            g_string_append_c(text, (char)(value + 1 + (e->rest ? RLX_SAYS_REST : 0)));
        } else {
            char *fallback = e->kind == LEX_NUMBER ? lex_value_text(e, e->fallback)
                                                   : g_strdup(e->words->pdata[e->fallback]);
            g_string_append(text, fallback);
            g_free(fallback);
        }
    }
    if (text->len)
        build_put_text(to, text->str);
    else
        build_put8(to, RLX_TEXT_END);
    g_string_free(text, TRUE);
}

void build_put_says(struct build *b)
{
    GByteArray *to = b->image->bytes;
    unsigned list = 0;
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        const struct lex_command *command = b->lx->commands->pdata[i];
        unsigned slots = lex_command_slots(command), least = slots, links = 0;
        if (!command->says) continue;
        for (unsigned k = 0; k < command->elements->len; k++)
            least -= ((struct lex_element *)command->elements->pdata[k])->optional;
        for (unsigned k = 0; k < b->lx->links->len; k++)
            links |= (unsigned)answer_is_on(command, b->lx->links->pdata[k]) << k;
        if (!list) {
            build_need(b, RLX_BIT_SAYS);
            build_need(b, RLX_BIT_FAMILY);
            build_row(b, "the commands' own answers");
            build_set16(to, RLX_IMG_SAYS, to->len);
            list = build_begin_list(to);
        }
        for (unsigned given = least; given <= slots; given++) {
            g_hash_table_insert(b->says, key_of(command, given), GUINT_TO_POINTER(to->len));
            build_put16(to, links);
            put_answer(to, command, command->says, given);
            put_answer(to, command, command->already, given);
        }
    }
    if (list) build_end_list(to, list);
}

unsigned build_says(const struct build *b, const struct lex_command *command, unsigned given)
{
    char *key = key_of(command, given);
    unsigned at = GPOINTER_TO_UINT(g_hash_table_lookup(b->says, key));
    g_free(key);
    return at;
}
