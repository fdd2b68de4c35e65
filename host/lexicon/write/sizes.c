#include "sizes.h"

#include <string.h>

#include "rlx/error.h"
#include "rlx/link.h"

#define WORD_SHOWN 16 /* most characters of a foreign word that an error tells */

/* Longest spelling of an element in a reply. */
static unsigned said_length(const struct lex_element *e)
{
    char *longest = lex_element_longest(e, false);
    unsigned length = (unsigned)strlen(longest);
    g_free(longest);
    return length;
}

/* "level 0..100" or "on|off|toggle" in an error. */
static unsigned wanted_length(const struct lex_element *e)
{
    size_t sum = e->kind == LEX_SET ? strlen("+none") : 0;
    if (e->kind == LEX_TEXT) return (unsigned)strlen(e->text) + (unsigned)strlen(" 200..200");
    if (e->kind == LEX_NUMBER || e->kind == LEX_LIST) {
        char *range = lex_range_text(e);
        sum = strlen(range) + strlen(e->prefix ? e->prefix : e->text) + 2;
        if (e->glued) sum += strlen(e->unit);
        g_free(range);
        return (unsigned)sum;
    }
    if (e->kind == LEX_WORD && !e->words) return (unsigned)strlen(e->text) + 1;
    for (unsigned i = 0; i < e->words->len; i++) sum += strlen(e->words->pdata[i]) + 1;
    return (unsigned)sum;
}

/* Longest error about the words or values that can stand at one place. */
static unsigned error_length(const struct lexicon *lx)
{
    static const unsigned longest_name = sizeof "ambiguous" - 1;
    unsigned most = WORD_SHOWN, n_commands = lx->commands->len;
    GHashTable *families = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < n_commands; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        struct lex_element *first = command->elements->pdata[0];
        unsigned sum = GPOINTER_TO_UINT(g_hash_table_lookup(families, first->text));
        for (unsigned k = 1; k < command->elements->len; k++)
            sum += wanted_length(command->elements->pdata[k]); /* at most all at one place */
        g_hash_table_insert(families, first->text, GUINT_TO_POINTER(sum));
        most = MAX(most, sum);
    }
    g_hash_table_destroy(families);
    return (unsigned)strlen("err ") + longest_name + 1 + most + (unsigned)strlen(" at 254\r\n");
}

static unsigned ok_length(const struct lexicon *lx, const char *greeting)
{
    size_t most = lx->silent ? 0 : strlen("ready ") + strlen(greeting) + strlen(" brownout\r\n");
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        size_t sum = strlen("ok") + strlen(" already\r\n") + strlen(" off");
        for (unsigned k = 0; k < command->elements->len; k++)
            sum += 1 + said_length(command->elements->pdata[k]);
        most = MAX(most, sum);
    }
    return (unsigned)most;
}

/* Longest text of a command, one blank between words. */
static unsigned command_length(const struct lexicon *lx)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        size_t sum = 0;
        for (unsigned k = 0; k < command->elements->len; k++) {
            struct lex_element *e = command->elements->pdata[k];
            char *longest = lex_element_longest(e, true);
            sum += 1 + strlen(longest);
            g_free(longest);
        }
        most = MAX(most, sum);
    }
    return (unsigned)most;
}

void lexicon_size_links(struct lexicon *lx, const char *greeting)
{
    unsigned reply = MAX(error_length(lx), ok_length(lx, greeting));
    unsigned command = MIN(command_length(lx) + 8, RLX_FRAME_MAX); /* room for stray blanks */
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        if (!link->receive) link->receive = 64;
        if (!link->transmit)
            for (link->transmit = 16; link->transmit < MIN(reply, RLX_RING_MAX);)
                link->transmit *= 2;
        if (!link->longest) link->longest = MAX(command, link->frame == LEX_FRAME_LINE ? 48 : 1);
        link->reply = MIN(reply, link->transmit);
        link->may_not_fit = reply > link->transmit;
    }
}
