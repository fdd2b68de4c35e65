/* For the drivers of bench/prove: memory with any contents, and values within bounds, as the value
 * analysis knows them.
 * Nothing here is compiled for a chip, or run. */
#ifndef ANY_H
#define ANY_H

#define _Alignas(x) /* the analysis does not know these two */
#define _Static_assert(...)

#include <stdbool.h>
#include <stdint.h>

#include "__fc_builtin.h"

/* It knows no builtin of a compiler. */
static inline void any_copy(void *to, const void *from, unsigned count)
{
    for (unsigned i = 0; i < count; i++) ((uint8_t *)to)[i] = ((const uint8_t *)from)[i];
}
#define __builtin_memcpy                       any_copy
#define __builtin_assume_aligned(at, boundary) (at)

#define ANY(object) Frama_C_make_unknown((char *)&(object), sizeof(object))

static inline uint8_t any_byte(void)
{
    return (uint8_t)Frama_C_unsigned_char_interval(0, 255);
}

static inline unsigned any_of(unsigned least, unsigned most)
{
    return (unsigned)Frama_C_int_interval((int)least, (int)most);
}

#endif
