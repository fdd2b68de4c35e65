/* What the files of the comparison share. */
#ifndef COMPARE_PARTS_H
#define COMPARE_PARTS_H

#include "compare/compare.h"
#include "world/boards/bench.h"

/* A lexicon, and a device with its tables that reads texts. */
struct parser {
    struct lexicon *lx;
    struct image *image;
    GHashTable *names; /* of the new lexicon: what was renamed -> its old name */
    struct bench_options options;
    struct bench *bench;
    struct end *end;
    bool listens;
    char *answer; /* the first one since it listens */
};

/* NULL: it cannot be read, or has faults (error is set). */
struct parser *parser_new(const char *file, GError **error);
void parser_free(struct parser *parser);

/* What a device makes of a text. */
struct reading {
    bool obeyed;
    char *answer;                      /* without " already" and the like */
    char *means;                       /* what it does, in words; NULL: it was refused */
    const struct lex_command *command; /* that it is; NULL: a query, a built-in word, or refused */
    char *word;                        /* "level?", "stats" where it is no command; else NULL */
};
struct reading parser_read(struct parser *parser, const char *text);
void reading_clear(struct reading *reading);

/* meaning.c: what a command does with these values, by names that both lexicons know. Owned by the
 * caller. */
char *meaning_of(const struct parser *parser, const struct lex_command *command,
                 const int32_t *values, unsigned given);
/* What NAME? asks for; `behind`: what the answer has behind the name. NULL: nothing. Owned by the
 * caller. */
char *meaning_asked(const struct parser *parser, const char *name, const char *behind);
/* Fills in now->names: outputs and handlers that only have another name. */
void meaning_renamed(const struct parser *old, struct parser *now);

/* What is found, together with what is of the same kind and subject. Takes over none of its texts.
 */
void finding_add(struct comparison *c, enum finding_kind kind, const char *subject,
                 const char *witness, const char *was, const char *is, unsigned line, unsigned now);

/* links.c, texts.c */
void compare_texts(struct comparison *c, struct parser *old, struct parser *now);
void compare_links(struct comparison *c, struct parser *old, struct parser *now);
void compare_events(struct comparison *c, struct parser *old, struct parser *now);

#endif
