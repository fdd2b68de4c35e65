/* What a kind of slot has of its own in a lexicon: host/slots has a file for each, and LEX_ELEMENTS
 * lists them; a fixed word is one too. A kind that lacks its file does not link. */
#ifndef SLOT_H
#define SLOT_H

#include "lexicon/model.h"

struct build;

/* How commands share a place: a fixed word among words, a choice among words, a number beside them,
 * or no other slot at its place. */
enum lex_share { LEX_SHARE_WORD, LEX_SHARE_CHOICE, LEX_SHARE_NUMBER, LEX_SHARE_ALONE };

struct lex_slot {
    const char *name;     /* of a handler's argument, where the slot has none */
    bool numbers;         /* a number, or several */
    bool words;           /* one of a list of words, or several */
    bool single;          /* one value, which is a number */
    bool answers;         /* a query can answer with it */
    enum lex_share share; /* how commands share its place */

    /* How it is written: the words that it can begin with, or what stands in it. Neither: not in
     * braces. `read` gets what stands behind its name, from the keyword on, and may change it;
     * lex_fault() where it is wrong. */
    const char *keywords[2], *sign;
    void (*read)(struct lexicon *lx, struct lex_element *e, char *body);
    /* Its default, into e->fallback; NULL: it cannot be left out. */
    void (*read_default)(struct lexicon *lx, struct lex_element *e, const char *text);
    /* Where a handler gets an address and a count: the type behind it, and what is counted. */
    const char *points_to, *count;

    /* What stands in its braces behind its name; a word as it is. Owned by the caller. */
    char *(*holds)(const struct lex_element *e);
    /* Its longest text. Owned by the caller. */
    char *(*longest)(const struct lex_element *e, bool units);
    /* Whether it takes this text, and its value: lex_element_says(). */
    bool (*says)(const struct lexicon *lx, const struct lex_element *e, const char *text,
                 int32_t *value);
    /* The characters of it in an error that says what can stand here: "level 0..100", "on|off". */
    unsigned (*wanted)(const struct lex_element *e);
    /* Its C type, or what the signature of a handler has for it. Owned by the caller. NULL: a word.
     */
    char *(*type)(const struct lexicon *lx, const struct lex_command *command,
                  const struct lex_element *e);
    /* The bounds and the unit of what a handler gets or tells. Owned by the caller. NULL: its type
     * says it. */
    char *(*note)(const struct lex_element *e);
    /* What a device gets for its value, as lex_slot::says() has it. NULL: it has none. */
    int32_t (*value)(const struct lex_element *e, int32_t said);
    /* Its rule in ABNF; NULL: its words stand at their place. */
    void (*grammar)(const struct lexicon *lx, GString *out, const struct lex_element *e);
    /* Its element in a program of the image. NULL: a word. */
    void (*put)(struct build *b, GByteArray *to, const struct lex_element *e);
};

#define LEX_SLOT_DECLARE(id, word) extern const struct lex_slot lex_slot_##word;
LEX_ELEMENTS(LEX_SLOT_DECLARE)
#undef LEX_SLOT_DECLARE

/* By enum lex_element_kind. */
#define LEX_ELEMENT_KINDS        (0 LEX_ELEMENTS(LEX_SLOT_COUNT))
#define LEX_SLOT_COUNT(id, word) +1
extern const struct lex_slot *const lex_slots[LEX_ELEMENT_KINDS];
const struct lex_slot *lex_slot_of(const struct lex_element *e);
bool lex_has_numbers(const struct lex_element *e);
bool lex_has_words(const struct lex_element *e);

#endif
