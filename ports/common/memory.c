/* What a compiler may call even in a freestanding program that is linked without a C library (gcc's
 * manual, "Standards"): memcpy(), memmove(), memset() and memcmp(). A byte at a time; volatile, so
 * that the loop does not become a call of itself. The library itself calls none of them. */
#include <stddef.h>

void *memcpy(void *restrict to, const void *restrict from, size_t count);
void *memmove(void *to, const void *from, size_t count);
void *memset(void *at, int byte, size_t count);
int memcmp(const void *a, const void *b, size_t count);

void *memcpy(void *restrict to, const void *restrict from, size_t count)
{
    volatile unsigned char *d = to;
    const unsigned char *s = from;
    while (count--) *d++ = *s++;
    return to;
}

void *memset(void *at, int byte, size_t count)
{
    volatile unsigned char *d = at;
    while (count--) *d++ = (unsigned char)byte;
    return at;
}

void *memmove(void *to, const void *from, size_t count)
{
    volatile unsigned char *d = to;
    const volatile unsigned char *s = from;
    if ((const unsigned char *)to <= (const unsigned char *)from)
        while (count--) *d++ = *s++;
    else
        while (count--) d[count] = s[count];
    return to;
}

int memcmp(const void *a, const void *b, size_t count)
{
    const volatile unsigned char *x = a, *y = b;
    for (; count && *x == *y; count--) x++, y++;
    return count ? *x - *y : 0;
}
