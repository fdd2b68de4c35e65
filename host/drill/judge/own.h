/* Which outputs a firmware drives by its own logic, besides commands. */
#ifndef OWN_H
#define OWN_H

#include <string.h>

#include "lexicon/model.h"

/* A list of them ends with output NULL; NULL: there are none. */
struct own {
    const char *output;
    bool safe; /* it may only put it to its safe state */
};

enum own_kind {
    OWN_NOT,
    OWN_SAFE, /* it may put it to its safe state */
    OWN_ALL   /* it may switch it as it likes; by halt and expiry it is safe at first */
};

static inline enum own_kind own_of(const struct own *own, const struct lex_output *out)
{
    for (; own && own->output; own++)
        if (!strcmp(own->output, out->name)) return own->safe ? OWN_SAFE : OWN_ALL;
    return OWN_NOT;
}

#endif
