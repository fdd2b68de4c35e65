/* A lexicon as a grammar in ABNF (RFC 5234, 7405).
 * A rule for each command and slot, and for what stands around a frame.
 * Ranges of numbers are comments: ABNF has none. */
#include "lexicon/write/abnf.h"
#include "lexicon/framing.h"

#include <string.h>

#include "lexicon/slot.h"
#include "lexicon/write/abnf_parts.h"
#include "lexicon/write/graph.h"
#include "lexicon/read/reader.h"
#include "rlx/config.h"

struct abnf {
    const struct lexicon *lx;
    GString *out;
    GPtrArray *nodes;   /* const struct node *: rule numbers of places */
    GPtrArray *numbers; /* const struct lex_element *: rule numbers of slots but choices */
};

/* ---- words ---- */

static void put_literal(const struct abnf *a, const char *text, size_t count)
{
    abnf_literal(a->lx, a->out, text, count);
}

/* The words possible at a node. */
static GPtrArray *words_of(const struct node *node)
{
    GPtrArray *all = g_ptr_array_new();
    for (unsigned i = 0; i < node->words->len; i++)
        g_ptr_array_add(all, (char *)((struct edge *)node->words->pdata[i])->text);
    for (unsigned i = 0; i < node->choices->len; i++) {
        const GPtrArray *words = ((struct edge *)node->choices->pdata[i])->element->words;
        for (unsigned k = 0; k < words->len; k++) g_ptr_array_add(all, words->pdata[k]);
    }
    return all;
}

/* Whether the first `count` letters stand for this word alone. */
static bool means_it(const GPtrArray *all, const char *word, size_t count)
{
    for (unsigned i = 0; i < all->len; i++) {
        const char *other = all->pdata[i];
        bool asked = g_str_has_suffix(other, "?"); /* which is never cut */
        if (other != word && !asked && !strncmp(other, word, count)) return false;
    }
    return true;
}

/* The word and what it may be cut to: ("pump" / "pum"). */
static void put_forms(struct abnf *a, const GPtrArray *all, const char *word)
{
    size_t length = strlen(word);
    g_string_append_c(a->out, '(');
    put_literal(a, word, length);
    unsigned least = g_str_has_suffix(word, "?") ? 0 : a->lx->shorten;
    for (size_t n = length - 1; least && n >= least; n--) {
        if (!means_it(all, word, n)) break;
        g_string_append(a->out, " / ");
        put_literal(a, word, n);
    }
    g_string_append_c(a->out, ')');
}

static void put_slot(struct abnf *a, unsigned index)
{
    const struct lex_element *e = a->numbers->pdata[index];
    g_string_append_printf(a->out, "slot%u = ", index);
    lex_slot_of(e)->grammar(a->lx, a->out, e);
    g_string_append_c(a->out, '\n');
}

/* ---- places ---- */

static unsigned number_of(GPtrArray *all, const void *what)
{
    guint index;
    if (g_ptr_array_find(all, what, &index)) return index;
    g_ptr_array_add(all, (void *)what);
    return all->len - 1;
}

/* What may follow: nothing, or blanks and the next place. */
static void put_rest(struct abnf *a, const struct node *to)
{
    if (!graph_next(to, 0)) return;
    g_string_append_printf(a->out, to->end ? " [1*SP place%u]" : " 1*SP place%u",
                           number_of(a->nodes, to));
}

static void put_place(struct abnf *a, const struct node *node, unsigned number)
{
    GPtrArray *all = words_of(node);
    const char *separator = "";
    g_string_append_printf(a->out, "place%u = ", number);
    if (node->number || node->slot) {
        g_string_append_printf(a->out, "slot%u",
                               number_of(a->numbers, node->number ? node->number : node->slot));
        put_rest(a, node->number ? node->after_number : node->after_slot);
        separator = "\n    / ";
    }
    for (unsigned i = 0; i < node->glued->len; i++, separator = "\n    / ") {
        const struct edge *edge = node->glued->pdata[i];
        g_string_append(a->out, separator);
        put_literal(a, edge->text, strlen(edge->text));
        g_string_append_printf(a->out, " slot%u", number_of(a->numbers, edge->element));
        put_rest(a, edge->to);
    }
    for (unsigned i = 0; i < node->words->len; i++, separator = "\n    / ") {
        const struct edge *edge = node->words->pdata[i];
        g_string_append(a->out, separator);
        put_forms(a, all, edge->text);
        put_rest(a, edge->to);
    }
    for (unsigned i = 0; i < node->choices->len; i++) {
        const struct edge *edge = node->choices->pdata[i];
        for (unsigned k = 0; k < edge->element->words->len; k++, separator = "\n    / ") {
            g_string_append(a->out, separator);
            put_forms(a, all, edge->element->words->pdata[k]);
            put_rest(a, edge->to);
        }
    }
    g_string_append_c(a->out, '\n');
    g_ptr_array_free(all, TRUE);
}

/* NAME? */
static void put_asked(struct abnf *a, const char *name)
{
    char *spelt = lex_spelt(a->lx, name);
    g_string_append(a->out, " / ");
    put_literal(a, spelt, strlen(spelt));
    g_string_append(a->out, " \"?\"");
    g_free(spelt);
}

/* Behind `stats`. */
static void put_links(struct abnf *a)
{
    for (unsigned i = 0; i < a->lx->links->len; i++) {
        char *name = lex_spelt(a->lx, ((struct lex_link *)a->lx->links->pdata[i])->name);
        g_string_append(a->out, i ? " / " : " [1*SP (");
        put_literal(a, name, strlen(name));
        g_free(name);
    }
    g_string_append(a->out, ")]");
}

/* What may stand for the whole line beside a command: numbers, built-in words, outputs that are
 * asked. */
static void put_others(struct abnf *a)
{
    const struct lexicon *lx = a->lx;
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        char **words = g_strsplit(((struct lex_number *)lx->numbers->pdata[i])->said, " ", -1);
        for (unsigned k = 0; words[k]; k++) {
            g_string_append(a->out, k ? " 1*SP " : " / ");
            put_literal(a, words[k], strlen(words[k]));
        }
        g_strfreev(words);
    }
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++) {
        if (!b->said || !(lx->built_in & b->bit)) continue;
        g_string_append(a->out, " / ");
        put_literal(a, b->word, strlen(b->word));
        if (b->bit == RLX_BUILT_IN_HELP)
            g_string_append(a->out, " [1*SP helped] [1*SP 1*2%x30-39]");
        if (b->bit == RLX_BUILT_IN_STATS && lex_tells_links(lx)) put_links(a);
        if (b->bit == RLX_BUILT_IN_LOG)
            g_string_append(a->out, " [1*SP (%x31-39 / \"1\" %x30-36)]");
    }
    for (unsigned i = 0; i < lx->events->len; i++) {
        if (!((struct lex_event *)lx->events->pdata[i])->confirmed) continue;
        g_string_append(a->out, " / ");
        put_literal(a, "got", 3);
        g_string_append(a->out, " [1*SP (%x31-39 [%x30-39] / \"1\" %x30-39 %x30-39 / "
                                "\"2\" %x30-34 %x30-39 / \"25\" %x30-35)]");
        break;
    }
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->outputs->len; i++)
        put_asked(a, ((struct lex_output *)lx->outputs->pdata[i])->name);
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (lex_drives_modem(link)) put_asked(a, link->name);
    }
    for (unsigned i = 0; lx->built_in & RLX_BUILT_IN_STATE && i < lx->inputs->len; i++)
        put_asked(a, ((struct lex_input *)lx->inputs->pdata[i])->name);
}

/* ---- frames ---- */

/* 1..most without leading zeros. */
static void put_count(GString *out, unsigned most)
{
    g_string_append_c(out, '(');
    for (unsigned i = 1; i <= most; i++)
        g_string_append_printf(out, "%s\"%u\"", i > 1 ? " / " : "", i);
    g_string_append_c(out, ')');
}

static void put_optional(GString *out, enum lex_demand demand, const char *rule)
{
    if (demand) g_string_append_printf(out, demand == LEX_DEMAND_REQUIRED ? " %s" : " [%s]", rule);
}

/* frame-LINK: a command with what stands around it; of keys each key. What ends it, or fills it, is
 * in the comment. */
static void put_frame(GString *out, const struct lex_link *link)
{
    char *name = g_strdelimit(g_strdup(link->name), "_.", '-');
    char *text = lex_framing_of(link)->text(link);
    g_string_append_printf(out, "; %s\nframe-%s =", text, name);
    if (link->layout) g_string_append(out, " 1*%x00-FF ; by its layout, see the card");
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        g_string_append(out, i ? "\n    /" : "");
        for (const char *c = key->code; *c; c++)
            g_string_append_printf(
                out, link->frame == LEX_FRAME_CODES && *c == '#' ? " %%x30-39" : " %%x%02X",
                (guchar)*c);
    }
    if (link->lead)
        g_string_append_printf(out, "%s %%x%02X line", link->keys->len ? "\n    /" : "",
                               (guchar)link->lead);
    if (lex_is_keyed(link) || link->layout) {
        g_string_append_c(out, '\n');
    } else {
        if (link->address >= 0 && link->senders) {
            g_string_append_printf(out, " (\"@%d/\" ", link->address);
            put_count(out, link->senders);
            g_string_append(out, " / \"@*\" [\"/\" ");
            put_count(out, link->senders);
            g_string_append(out, "])");
        } else if (link->address >= 0) {
            g_string_append_printf(out, " (\"@%d\" / \"@*\")", link->address);
        }
        if (link->address >= 0) g_string_append(out, " SP");
        put_optional(out, link->tags, "tag");
        put_optional(out, link->seal, "seal");
        if (link->code) g_string_append(out, " 1*(%x21-7E) SP"); /* the code */
        g_string_append(out, " line");
        put_optional(out, link->check, "check");
        g_string_append_c(out, '\n');
    }
    g_free(text), g_free(name);
}

static void put_frames(GString *out, const struct lexicon *lx)
{
    bool tags = false, checks = false, seals = false;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        put_frame(out, link);
        seals |= link->seal != LEX_DEMAND_OFF;
        tags |= link->tags != LEX_DEMAND_OFF;
        checks |= link->check != LEX_DEMAND_OFF;
    }
    if (tags) g_string_append(out, "; 0..32767\ntag = \"#\" (\"0\" / %x31-39 *4%x30-39) SP\n");
    if (seals)
        g_string_append(out, "; key, counter and code, see docs/security.md\n"
                             "seal = \"!\" 1*2%x30-39 \".\" 1*5%x30-39 \".\" "
                             "11(ALPHA / %x30-39 / \"-\" / \"_\") SP\n"
                             "ALPHA = %x41-5A / %x61-7A\n");
    if (checks)
        g_string_append(out,
                        "; CRC-16 over all before it, see the card\ncheck = \"*\" 4(%x40-4F)\n");
}

char *lexicon_abnf(struct lexicon *lx)
{
    struct abnf a = {lx, g_string_new(NULL), g_ptr_array_new(), g_ptr_array_new()};
    struct node *root = graph_build(lx);
    g_string_append_printf(a.out, "; What a line to %s %u may be; RFC 5234%s.\n", lx->name,
                           lx->version, lx->any_case ? "" : " with RFC 7405");
    if (lx->built_in & RLX_BUILT_IN_BATCH)
        g_string_append(a.out, "; Several of them may stand in one frame, with \";\" between.\n");
    g_string_append(a.out, "line = *SP (place0");
    put_others(&a);
    g_string_append(a.out, ") *SP\n");
    number_of(a.nodes, root);
    for (unsigned i = 0; lx->commands->len && i < a.nodes->len; i++)
        put_place(&a, a.nodes->pdata[i], i);
    for (unsigned i = 0; i < a.numbers->len; i++) put_slot(&a, i);
    if (lx->built_in & RLX_BUILT_IN_HELP)
        g_string_append(a.out, "helped = (%x21 / %x23-2F / %x3A / %x3C-7E) "
                               "*(%x21 / %x23-3A / %x3C-7E)\n");
    put_frames(a.out, lx);
    g_string_append(a.out, "SP = %x20\n");
    graph_free(root);
    g_ptr_array_free(a.nodes, TRUE);
    g_ptr_array_free(a.numbers, TRUE);
    return g_string_free(a.out, FALSE);
}
