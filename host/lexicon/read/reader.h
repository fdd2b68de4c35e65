/* What the files of the reader share: a statement cut into tokens, and faults. */
#ifndef READER_H
#define READER_H

#include "lexicon.h"

enum token_kind { TOKEN_END, TOKEN_WORD, TOKEN_STRING, TOKEN_SLOT, TOKEN_EQUALS, TOKEN_ARROW };

struct token {
    enum token_kind kind;
    struct lex_place place;
    char *text; /* without quotes or braces */
};

/* One line of the file. */
struct statement {
    struct lexicon *lx;
    GArray *tokens; /* struct token, the last one TOKEN_END */
    unsigned next;
};

/* tokens.c */
bool statement_split(struct statement *st, struct lexicon *lx, unsigned line);
void statement_clear(struct statement *st);
struct token *statement_peek(struct statement *st);
struct token *statement_take(struct statement *st);
bool statement_take_word(struct statement *st, const char *word);
/* A whole number low..high with this unit ("" for none; in front of '|' more of them). */
bool statement_number(struct statement *st, const char *what, unsigned low, unsigned high,
                      unsigned *value);
/* A name: a C identifier. */
char *statement_name(struct statement *st, const char *what);
/* What is left of the statement, a blank between its tokens; a text in quotes that is all of it,
 * without them. Owned by the caller. */
char *statement_rest(struct statement *st);
/* An optional title, and nothing behind it. */
char *statement_title(struct statement *st);

/* faults.c */
void lex_fault(struct lexicon *lx, struct lex_place place, const char *format, ...)
    G_GNUC_PRINTF(3, 4); /* of code F01 */
struct lex_fault *lex_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                           const char *format, ...) G_GNUC_PRINTF(4, 5);
/* The one of the NULL-ended words that was probably meant, or NULL. */
const char *lex_nearest(const char *word, const char *const *words);
/* "; did you mean 'X'?" or "". Owned by the caller. */
char *lex_did_you_mean(const char *word, const char *const *words);
char *lex_did_you_mean_output(const struct lexicon *lx, const char *word);

/* Statements, one file each. */
void read_output(struct statement *st);
void read_command(struct statement *st);
void read_link(struct statement *st);
/* After the last line: what can only be told then. */
void finish_commands(struct lexicon *lx);
void finish_links(struct lexicon *lx);

/* read_slot.c: words and slots of commands. */
bool lex_word_ok(const char *word, const char **why);
/* The word as the device keeps it: in small letters where letters are any-case. */
char *lex_spelt(const struct lexicon *lx, const char *word);
void lex_read_choice(struct lexicon *lx, struct lex_element *e, const char *body);
/* 0 ms, 1 s, 2 min, 3 h; -1: none of them. */
int lex_time_unit(const char *text, size_t length);
void lex_read_unit(struct lexicon *lx, struct lex_element *e, const char *unit);
struct lex_element *lex_read_slot(struct lexicon *lx, struct token *token);

/* read_effect.c */
bool read_effect(struct statement *st, struct lex_command *command);

/* command.c */
void lex_element_free(void *element);
void lex_command_free(void *command);
/* Adds the command whose words are the effect itself (`lamp toggle`), unless finish_commands()
 * finds that another says so. Returns its text. */
char *lex_effect_command(struct lexicon *lx, const struct lex_command *effect);
/* Whether this text is one of the command's. */
bool lex_command_says(const struct lexicon *lx, const struct lex_command *command,
                      const char *text);

#endif
