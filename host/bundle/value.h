/* The value of an expression behind #if (C11 6.10.1), as far as it is known without a compiler. */
#ifndef VALUE_H
#define VALUE_H

#include <glib.h>
#include <stdbool.h>

struct value {
    bool known;
    gint64 is;
};

/* The text of a macro of which the compiler decides whether it is defined. */
#define VALUE_OPEN "\x01"

/* Macros: name and text; NULL: it takes arguments. */
struct value value_of(GHashTable *macros, const char *expression);
/* Whether a name is defined. */
struct value value_defined(GHashTable *macros, const char *name, gsize length);

#endif
