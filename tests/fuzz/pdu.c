/* Any octets as a message. What the library takes for sound, the network's codec reads as the same;
 * and what that one reads of letters that every codec has, the library takes. */
#include <glib.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"
#include "rlx/pdu.h"
#include "world/modem/tpdu.h"

static void fail(const char *what, const uint8_t *data, size_t size)
{
    fprintf(stderr, "%s:", what);
    for (size_t i = 0; i < size; i++) fprintf(stderr, " %02X", data[i]);
    fputc('\n', stderr);
    abort();
}

/* Letters that no codec changes. */
static bool is_plain(const char *text)
{
    for (; *text; text++)
        if (!g_ascii_isalnum(*text) && *text != ' ') return false;
    return true;
}

static bool is_number(const char *number)
{
    if (*number == '+') number++;
    return strspn(number, "0123456789") == strlen(number);
}

/* Whether the message is just as the network writes that text. */
static bool is_usual(const struct tpdu *t, const uint8_t *data, size_t size)
{
    GByteArray *anew = tpdu_deliver(t);
    bool same = anew && anew->len == size && !memcmp(anew->data + 1, data + 1, size - 1);
    if (anew) g_byte_array_free(anew, TRUE);
    return same;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    uint8_t text[RLX_PDU_TEXT];
    struct rlx_pdu_in in;
    struct tpdu t;
    if (size > 200) return 0;
    rlx_pdu_begin(&in, text, sizeof text);
    rlx_pdu_octet(&in, 0);
    for (size_t i = 0; i < size; i++) rlx_pdu_octet(&in, data[i]);
    enum rlx_pdu what = rlx_pdu_end(&in, (uint8_t)size);
    if (in.count > sizeof text) fail("a text beyond its buffer", data, size);
    bool read = tpdu_read_deliver(data, (unsigned)size, &t);
    if (what == RLX_PDU_SOUND && read) {
        char *said = g_strndup((const char *)text, in.count);
        char *theirs = g_strdelimit(g_strdup(t.text), "\r\n", ' ');
        if (strcmp(said, theirs) != 0) fail("another text", data, size);
        g_free(theirs);
        g_free(said);
    }
    /* digits that are none, and codings that are reserved, are left to who reads them */
    bool sure = read && is_number(t.number) && is_plain(t.text) && !t.parts && !t.octets &&
                (t.coding & 0xFC) == 0 && !(data[0] & 0x40) && is_usual(&t, data, size);
    if (sure && what != RLX_PDU_SOUND) fail("not taken", data, size);
    if (what == RLX_PDU_SOUND && !read && (in.sender[1] & 0x70) == 0x10) {
        for (unsigned i = 0; i < in.sender[0]; i++)
            if ((in.sender[2 + i / 2] >> (i & 1 ? 4 : 0) & 15) > 9) return 0;
        fail("only the library takes it", data, size);
    }
    if (read) tpdu_clear(&t);
    return 0;
}
