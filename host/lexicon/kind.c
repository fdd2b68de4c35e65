/* The kinds of outputs by their number, and the output that has a wire.
 * A table of what host/kinds has, made from the list of kinds.
 * What a kind has of its own is not here. */
#include "lexicon/kind.h"

const struct lex_kind *lex_kind_of(const struct lex_output *out)
{
    static const struct lex_kind *const kinds[] = {
#define KIND(id, word, drive) [LEX_##id] = &lex_kind_##word,
        RLX_OUTPUT_KINDS(KIND)
#undef KIND
    };
    return kinds[out->kind];
}

int lex_output_at(const struct lexicon *lx, enum lex_wire_is is, unsigned number,
                  struct lex_wire *wire)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        struct lex_wire wires[LEX_WIRES_MOST];
        unsigned n = lex_kind_of(lx->outputs->pdata[i])->wires(lx->outputs->pdata[i], wires);
        for (unsigned k = 0; k < n; k++) {
            if (wires[k].is != is || wires[k].number != number) continue;
            if (wire) *wire = wires[k];
            return (int)i;
        }
    }
    return -1;
}

bool lex_ends_at(const struct lex_output *out, const char *input)
{
    const struct lex_kind *kind = lex_kind_of(out);
    bool ends = false;
    for (unsigned i = 0; kind->ends && i < LEX_ENDS_MOST; i++)
        ends |= !g_strcmp0(kind->ends(out, i)->until, input);
    return ends;
}

bool lex_lacks_range(const struct lex_output *out)
{
    const struct lex_element *range = out->range;
    return lex_kind_of(out)->levels == LEX_LEVELS_OWN &&
           !(range && range->low < range->high && range->scaled);
}
