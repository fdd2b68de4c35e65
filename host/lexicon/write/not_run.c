/* What the language has and the library does not support yet.
 * Each is a fault with its place.
 * It is empty when all is supported. */
#include <string.h>

#include "lexicon/write/table_image.h"
#include "lexicon/slot.h"
#include "rlx/drive.h"

static void add(GPtrArray *all, struct lex_place place, const char *format, ...)
    G_GNUC_PRINTF(3, 4);
static void add(GPtrArray *all, struct lex_place place, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *what = g_strdup_vprintf(format, args);
    va_end(args);
    g_ptr_array_add(all, g_strdup_printf("line %u: %s", place.line, what));
    g_free(what);
}

/* A step keeps no texts. */
static void add_routine(GPtrArray *all, const struct lexicon *lx, const struct lex_routine *routine)
{
    int32_t values[15];
    unsigned given;
    for (unsigned i = 0; i < routine->steps->len; i++) {
        const struct lex_step *step = routine->steps->pdata[i];
        const struct lex_command *command =
            step->text ? lex_command_taking(lx, step->text, values, &given) : NULL;
        for (unsigned k = 0; command && k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            if (lex_slot_of(e)->count)
                add(all, routine->place, "a step with a text or list, \"%s\"", step->text);
        }
    }
}

GPtrArray *image_not_run(const struct lexicon *lx)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < lx->routines->len; i++) add_routine(all, lx, lx->routines->pdata[i]);
    return all;
}
