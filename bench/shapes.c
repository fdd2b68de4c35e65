/* shapes COUNT FOLDER: writes COUNT random lexicons, each without a fault, for bench/weigh.
 * The same ones each time. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"
#include "lexicon/write/table_image.h"
#include "lines.h"

static bool sound(const char *text)
{
    struct lexicon *lx = lexicon_read_text("shape", g_strdup(text), strlen(text));
    struct image *image = lexicon_has(lx, false) ? NULL : image_build(lx);
    if (image) lexicon_check(lx, image);
    bool is = image && !lexicon_has(lx, false);
    image_free(image);
    lexicon_free(lx);
    return is;
}

int main(int argc, char **argv)
{
    if (argc != 3) return 2;
    for (int i = 0; i < atoi(argv[1]);) {
        char *text = lines_shape();
        if (i % 4 == 0) {
            char *with = g_strconcat(text, "link modem sms open\n", NULL);
            g_free(text);
            text = with;
        }
        if (sound(text)) {
            char *path = g_strdup_printf("%s/s%d.lexicon", argv[2], i++);
            if (!g_file_set_contents(path, text, -1, NULL)) return 2;
            g_free(path);
        }
        g_free(text);
    }
    return 0;
}
