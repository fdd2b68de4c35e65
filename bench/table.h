/* Sorted table, searched by halves. */
#include "hand.h"

struct row {
    handler_fn fn;
    int16_t low, high;
    uint8_t kind;
    char word[9];
};
extern const ROM struct row rows[COUNT];

static int compare(const char *s, const ROM char *word)
{
    while (*word && *word == *s) s++, word++;
    return (*s <= ' ' ? 0 : *s) - *word;
}

void hand_exec(char *line)
{
    char *word = skip(line), *end = word;
    uint16_t low = 0, high = COUNT;
    if (!*word) return;
    while (*end > ' ') end++;
    end = skip(end);
    while (low < high) {
        uint16_t middle = (uint16_t)((low + high) / 2);
        const ROM struct row *row = &rows[middle];
        int order = compare(word, row->word);
        if (order > 0) {
            low = (uint16_t)(middle + 1);
        } else if (order < 0) {
            high = middle;
        } else {
            if (row->kind == 2)
                number(word, end, row->low, row->high, row->fn);
            else if (row->kind == 1)
                choice(word, end, moved, moved_list, row->fn);
            else
                choice(word, end, switched, switched_list, row->fn);
            return;
        }
    }
    unknown(word);
}
