/* Answers of a command's own: cut into pieces, filled in, and known again.
 * Works on the text as the lexicon has it, {SLOT} standing for what a slot holds.
 * What the device writes is in src/core/says.c. */
#include "lexicon/answers.h"

#include <string.h>

#include "lexicon/names.h"
#include "rlx/def/errors.h"
#include "rlx/def/replies.h"

/* The number of the slot with this name, of `length` characters; "" is that of the only slot. */
static int slot_named(const struct lex_command *command, const char *name, size_t length)
{
    int slot = 0, found = -2;
    unsigned slots = lex_command_slots(command);
    for (unsigned i = 0; i < command->elements->len && found < 0; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        char *its = e->text ? g_strdup(e->text) : lex_argument_name(command->elements, e);
        if (length ? strlen(its) == length && !strncmp(its, name, length) : slots == 1)
            found = slot;
        g_free(its);
        slot++;
    }
    return found;
}

/* The next piece: what stands in braces, whose slot is -2 so far, or what stands before the next
 * ones. */
static const char *next_piece(const char *at, struct answer_piece *piece)
{
    if (!*at) return NULL;
    const char *close = *at == '{' ? strchr(at, '}') : NULL;
    if (close) {
        *piece = (struct answer_piece){at + 1, (size_t)(close - at - 1), -2};
        return close + 1;
    }
    *piece = (struct answer_piece){at, *at == '{' ? strlen(at) : strcspn(at, "{"), -1};
    return at + piece->length;
}

const char *answer_next(const struct lex_command *command, const char *at,
                        struct answer_piece *piece)
{
    at = next_piece(at, piece);
    if (at && piece->slot != -1) piece->slot = slot_named(command, piece->text, piece->length);
    return at;
}

const char *own_text_next(const struct lex_text *own, const char *at, struct answer_piece *piece)
{
    static const char *const names[] = {
#define NAME(number, id, name, errors) [(number)] = (name),
        RLX_ERROR_FIELDS(NAME)
#undef NAME
    };
    if (!g_str_has_prefix(own->what, "err")) {
        *piece = (struct answer_piece){at, strlen(at), -1};
        return *at ? at + piece->length : NULL;
    }
    at = next_piece(at, piece);
    for (unsigned i = 1; at && piece->slot == -2 && i < G_N_ELEMENTS(names); i++)
        if (strlen(names[i]) == piece->length && !strncmp(names[i], piece->text, piece->length))
            piece->slot = (int)i;
    return at;
}

bool own_text_has_fields(const struct lex_text *own)
{
    struct answer_piece piece;
    const char *at = own->text;
    while ((at = own_text_next(own, at, &piece)))
        if (piece.slot > 0) return true;
    return false;
}

char *answer_text(const struct lex_command *command, const char *answer, char *const *slots)
{
    struct answer_piece piece;
    GString *text = g_string_new(NULL);
    while ((answer = answer_next(command, answer, &piece)))
        if (piece.slot >= 0)
            g_string_append(text, slots[piece.slot]);
        else
            g_string_append_len(text, piece.text, (gssize)piece.length);
    return g_string_free(text, FALSE);
}

char *answer_longest(const struct lex_command *command, const char *answer)
{
    char *slots[128] = {NULL};
    unsigned n = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD) slots[n++] = lex_element_longest(e, false);
    }
    char *text = answer_text(command, answer, slots);
    while (n) g_free(slots[--n]);
    return text;
}

const char *answer_behind(const struct lex_command *command, const char *answer, const char *line)
{
    struct answer_piece piece;
    while ((answer = answer_next(command, answer, &piece))) {
        if (piece.slot < 0) {
            if (strncmp(line, piece.text, piece.length) != 0) return NULL;
            line += piece.length;
        } else {
            if (!*line) return NULL;
            do line++;
            while (*line && *line != *answer);
        }
    }
    return line;
}

bool answer_is_on(const struct lex_command *command, const struct lex_link *link)
{
    if (!command->says || link->replies != LEX_REPLIES_FULL || link->one_way) return false;
    return !command->says_on->len ||
           g_ptr_array_find_with_equal_func(command->says_on, link->name, g_str_equal, NULL);
}

bool answer_is_of(const struct lexicon *lx, const struct lex_link *link, const char *line)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!answer_is_on(command, link)) continue;
        const char *behind = answer_behind(command, command->says, line);
        if (behind && (!*behind || (!command->already && !strcmp(behind, " already")) ||
                       g_str_has_prefix(behind, RLX_TXT_WAITING)))
            return true;
        behind = command->already ? answer_behind(command, command->already, line) : NULL;
        if (behind && !*behind) return true;
    }
    return false;
}

bool answers_are_own(const struct lexicon *lx, const struct lex_link *link)
{
    if (link->texts->len) return true;
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (answer_is_on(lx->commands->pdata[i], link)) return true;
    return false;
}

char *answer_identity(const struct lexicon *lx, const char *fingerprint, const char *line)
{
    static const char *const before[] = {"ready ", "ok about "};
    const char *at = NULL;
    for (unsigned i = 0; i < G_N_ELEMENTS(before) && !at; i++) {
        at = strstr(line, before[i]);
        if (at && at != line && g_ascii_isalnum(at[-1])) at = NULL;
        if (at) at += strlen(before[i]);
    }
    char **words = at ? g_strsplit(at, " ", 4) : NULL;
    char *told = NULL, *version = g_strdup_printf("%u", lx->version);
    if (words && g_strv_length(words) >= 3 && strlen(words[2]) >= strlen(fingerprint)) {
        words[2][strlen(fingerprint)] = 0;
        bool same = !strcmp(words[0], lx->name) && !strcmp(words[1], version) &&
                    !strcmp(words[2], fingerprint);
        told = same
                   ? g_strdup("")
                   : g_strdup_printf("the board runs %s %s, fingerprint %s; this lexicon is %s %s, "
                                     "fingerprint %s",
                                     words[0], words[1], words[2], lx->name, version, fingerprint);
    }
    g_strfreev(words);
    g_free(version);
    return told;
}
