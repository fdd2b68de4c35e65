/* Parts of an ABNF grammar that rules of slots share. */
#ifndef ABNF_PARTS_H
#define ABNF_PARTS_H

#include "lexicon/model.h"

/* The first `count` bytes of a text, as letters count in this lexicon. */
void abnf_literal(const struct lexicon *lx, GString *out, const char *text, size_t count);
/* The numbers that a slot takes, with their unit. */
void abnf_number(const struct lexicon *lx, GString *out, const struct lex_element *e);

#endif
