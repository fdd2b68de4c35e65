/* What commands and settings wait for: `only while service on`, as a list of the image.
 * A command's program has the place of its first row.
 * Whether something is guarded is found when the lexicon is read. */
#include "lexicon/read/reader.h"
#include "lexicon/write/build.h"

static void put_guard(struct build *b, const struct lex_permit *guard, bool more)
{
    GByteArray *to = b->image->bytes;
    char *name = lex_spelt(b->lx, guard->name);
    build_put8(to, (guard->on ? RLX_GRD_IF_ON : 0u) | (guard->out ? RLX_GRD_OUTPUT : 0u) |
                       (more ? RLX_GRD_MORE : 0u));
    build_put8(to, guard->out ? (unsigned)lexicon_output_index(b->lx, guard->name)
                              : build_input(b->lx, guard->name));
    build_put_text(to, name);
    g_free(name);
}

void build_put_guards(struct build *b)
{
    GByteArray *to = b->image->bytes;
    for (unsigned i = 0; i < b->lx->commands->len; i++) {
        struct lex_command *command = b->lx->commands->pdata[i];
        if (!command->guards) continue;
        char *text = lex_command_text(command);
        build_row(b, "what %s waits for", text);
        build_need(b, RLX_BIT_GUARDS);
        g_hash_table_insert(b->guards, command, GUINT_TO_POINTER(to->len));
        for (unsigned k = 0; k < command->guards->len; k++)
            put_guard(b, command->guards->pdata[k], k + 1 < command->guards->len);
        g_free(text);
    }
}

void build_put_guarded(struct build *b, GByteArray *to, const struct lex_command *command)
{
    if (command->guards) {
        build_put8(to, RLX_OP_GUARD);
        build_put16(to, GPOINTER_TO_UINT(g_hash_table_lookup(b->guards, command)));
    }
    if (command->code) {
        build_need(b, RLX_BIT_CODED);
        build_put8(to, RLX_OP_CODE);
        build_put8(to, build_setting(b, command->code));
    }
}
