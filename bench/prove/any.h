/* For the drivers of bench/prove: memory with any contents, and values within bounds, as the value
 * analysis knows them.
 * Nothing here is compiled for a chip, or run. */
#ifndef ANY_H
#define ANY_H

#define _Alignas(x) /* the analysis does not know it */

#include <stdbool.h>
#include <stdint.h>

#include "__fc_builtin.h"

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
