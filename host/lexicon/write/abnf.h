/* The commands as a grammar: ABNF of RFC 5234, with the case-sensitive strings of RFC 7405. */
#ifndef ABNF_H
#define ABNF_H

#include "lexicon/model.h"

/* Rule `line` is exactly what the device accepts between two line ends, up to the link's longest
 * line. The lexicon has no errors. Owned by the caller. */
char *lexicon_abnf(struct lexicon *lx);

#endif
