/* switch on the first character, and on more of them while more than three words are left. */
#include "hand.h"

static bool rest_is(const char *s, const ROM char *rest)
{
    while (*rest && *rest == *s) s++, rest++;
    return !*rest && *s <= ' ';
}

#define BEGIN()                           \
    char *word = skip(line), *end = word; \
    if (!*word) return;                   \
    while (*end > ' ') end++;             \
    end = skip(end)
#define TAKE(k, rest, call)             \
    if (rest_is(word + (k), F(rest))) { \
        call;                           \
        return;                         \
    }
#define SWITCHED(k, rest, fn)          TAKE(k, rest, choice(word, end, switched, switched_list, fn))
#define MOVED(k, rest, fn)             TAKE(k, rest, choice(word, end, moved, moved_list, fn))
#define NUMBER(k, rest, low, high, fn) TAKE(k, rest, number(word, end, low, high, fn))
#define UNKNOWN()                      unknown(word)
