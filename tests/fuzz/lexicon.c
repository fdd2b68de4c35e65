/* Any bytes as a lexicon: faults, or an image that the device starts with and whose card and
 * grammar can be written; never a crash, a hang or a lost byte of memory. */
#include <stdlib.h>
#include <string.h>

#include "lexicon/write/abnf.h"
#include "lexicon/write/card.h"
#include "lexicon/check/check.h"
#include "fuzz.h"

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    char *text = g_malloc(size + 1);
    memcpy(text, data, size);
    text[size] = 0;
    struct lexicon *lx = lexicon_read_text("it", text, size);
    struct image *image = image_build(lx);
    if (!image && !lexicon_has(lx, false)) abort(); /* it must have said why */
    lexicon_check(lx, image);
    g_free(lexicon_faults_text(lx, 20));
    if (image && !lexicon_has(lx, false)) {
        g_free(lexicon_card_text(lx, image));
        g_free(lexicon_card_json(lx, image));
        g_free(lexicon_abnf(lx));
    }
    image_free(image);
    lexicon_free(lx);
    return 0;
}
