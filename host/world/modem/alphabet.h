/* The 7-bit default alphabet of text messages with its extension table, and UCS2: 3GPP TS 23.038.
 * Written apart from the library's own codec, so that each is checked by the other. */
#ifndef ALPHABET_H
#define ALPHABET_H

#include <glib.h>
#include <stdbool.h>

/* The septets of a text in UTF-8; NULL: some character is not in the alphabet. */
GByteArray *alphabet_septets(const char *text);
/* The text of so many septets, in UTF-8. `single`, `locking`: the national language tables that the
 * message names (23.038, 6.2.1.2.4), 0: none. What they change and is not known here becomes
 * U+FFFD. */
char *alphabet_text(const guint8 *septets, unsigned count, unsigned single, unsigned locking);

/* Eight septets in seven octets, from bit `fill` (0..6) of the first one on. */
GByteArray *alphabet_pack(const guint8 *septets, unsigned count, unsigned fill);
GByteArray *alphabet_unpack(const guint8 *octets, unsigned size, unsigned count, unsigned fill);

/* UCS2, big-endian; a character beyond the basic plane as the two of UTF-16. */
GByteArray *alphabet_ucs2(const char *text);
char *alphabet_of_ucs2(const guint8 *octets, unsigned size);

#endif
