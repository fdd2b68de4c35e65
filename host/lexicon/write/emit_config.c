/* Writes NAME_config.h: what a build of the library has, and what is constant in it.
 * Features and knobs come from the lists in rlx/def, constants from the image.
 * It decides nothing that the image does not show. */
#include "lexicon/write/emit.h"
#include "lexicon/write/emit_parts.h"

#include <string.h>

#include "rlx/config.h"
#include "rlx/device.h"
#include "rlx/image.h"

static const struct {
    const char *id, *name;
} features[] = {/* by RLX_BIT_... */
#define FEATURE(id, name) {#id, name},
                RLX_FEATURES(FEATURE)
#undef FEATURE
};

G_STATIC_ASSERT(RLX_N_FEATURES <= 32 * RLX_FEATURE_WORDS); /* bits of an image's needs */
G_STATIC_ASSERT(RLX_N_KINDS <= 32);                        /* bits of a verb's kinds */

/* ---- knobs ---- */

enum {
#define KNOB(id, least, most, normal, zero, counts) KNOB_##id,
    RLX_KNOBS(KNOB) N_KNOBS
#undef KNOB
};

static const struct {
    const char *id, *counts;
    unsigned least, normal;
} knobs[] = {/* by KNOB_... */
#define KNOB(id, least, most, normal, zero, counts) {#id, counts, least, normal},
             RLX_KNOBS(KNOB)
#undef KNOB
};

unsigned emit_ahead(const struct lexicon *lx)
{
    unsigned most = 0;
    bool newest = false;
    for (unsigned i = 0; i < lx->commands->len; i++)
        newest |= ((struct lex_command *)lx->commands->pdata[i])->newest;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        bool counted = link->frame == LEX_FRAME_FIXED || link->frame == LEX_FRAME_CODES;
        if (newest || counted) most = MAX(most, link->longest);
    }
    return most;
}

int emit_says(const struct lexicon *lx)
{
    size_t most = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        char *longest = lex_command_longest(command, true);
        if (command->says) most = MAX(most, strlen("ok ") + strlen(longest) + strlen(" off"));
        g_free(longest);
    }
    return most ? (int)MIN(most, RLX_MOST_SAYS_BYTES) : -1;
}

unsigned emit_kept(const struct lexicon *lx)
{
    unsigned kept = 0;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->tags || link->seal)
            kept = MAX(kept, MIN(link->transmit,
                                 link->payload ? link->payload : RLX_MOST_KEPT_REPLY_BYTES));
    }
    return kept;
}

/* What this lexicon needs of a knob at least; -1: the lexicon has nothing to do with it. */
static int knob_needs(const struct emit *e, unsigned knob)
{
    switch (knob) {
    case KNOB_SLOTS: return (int)e->image->slots;
    case KNOB_LINKS: return (int)e->lx->links->len;
    case KNOB_KEPT_REPLY_BYTES: return (int)emit_kept(e->lx);
    case KNOB_AHEAD_BYTES: return (int)emit_ahead(e->lx);
    case KNOB_SAYS_BYTES: return emit_says(e->lx);
    case KNOB_NV_AREA_BYTES: return lex_n_settings(e->lx) ? (int)lex_nv_needs(e->lx) : -1;
    case KNOB_FIRMWARE_SAFE: return lex_has_own(e->lx) ? 1 : -1;
    case KNOB_FIXED: return 1;
    default: return -1;
    }
}

/* The compiler finds what is wrong with the build, not the board. */
void emit_asserts(struct emit *e)
{
    emit_put(
        e, "\nRLX_STATIC_ASSERT(RLX_IMAGE_FORMAT == %d, \"made by another rlx: emit it anew\");\n",
        RLX_IMAGE_FORMAT);
    for (unsigned i = 0; i < N_KNOBS; i++) {
        int needs = knob_needs(e, i);
        const char *id = knobs[i].id;
        if (i == KNOB_LINKS && needs)
            emit_put(e,
                     "RLX_STATIC_ASSERT(!RLX_%s || RLX_%s == %d, \"RLX_%s is another number\");\n",
                     id, id, needs, id);
        else if (i != KNOB_FIXED && needs > (int)knobs[i].least)
            emit_put(e, "RLX_STATIC_ASSERT(!RLX_%s || RLX_%s >= %d, \"RLX_%s is too small\");\n",
                     id, id, needs, id);
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(features); i++)
        if (image_needs(e->image, i))
            emit_put(e, "RLX_STATIC_ASSERT(RLX_HAS_%s, \"this build lacks: %s\");\n",
                     features[i].id, features[i].name);
}

/* ---- NAME_config.h ---- */

static unsigned image_read16(const guint8 *bytes, unsigned at)
{
    return bytes[at] | (unsigned)bytes[at + 1] << 8;
}

/* The bytes of a table of constants. */
static void put_constants(struct emit *e, const char *name, const guint8 *bytes, unsigned count)
{
    emit_put(e, "#define RLX_FIXED_%s", name);
    for (unsigned i = 0; i < count; i++)
        emit_put(e, "%s0x%02X", i % 16 ? ", " : i ? ", \\\n    " : " \\\n    ", bytes[i]);
    emit_put(e, "\n");
}

/* What links have at their rows, or in what only some of them have: its bytes, and in which of
 * them they agree. */
static void put_common(struct emit *e, const char *name, bool more, unsigned count)
{
    const guint8 *image = e->image->bytes->data, *first = NULL;
    guint32 same = (guint32)((UINT64_C(1) << count) - 1);
    guint8 none[RLX_MORE_SIZE] = {0};
    for (unsigned i = 0; i < e->lx->links->len; i++) {
        const guint8 *row = image + image_read16(image, RLX_IMG_LINK_ROWS) + i * RLX_LNK_ROW;
        unsigned at = image_read16(row, RLX_LNK_MORE);
        const guint8 *its = !more ? row : at ? image + at : NULL;
        if (!its) continue;
        if (!first) first = its;
        for (unsigned k = 0; k < count; k++)
            if (its[k] != first[k]) same &= ~(1u << k);
    }
    put_constants(e, name, first ? first : none, count);
    emit_put(e, "#define RLX_FIXED_SAME_%s 0x%Xu /* in which of them its links agree */\n", name,
             first ? same : 0);
}

/* One byte of the rows, where all links have it; else 0. */
static void put_agreed(struct emit *e, const char *name, unsigned field)
{
    const guint8 *image = e->image->bytes->data;
    const guint8 *row = image + image_read16(image, RLX_IMG_LINK_ROWS);
    unsigned agreed = row[field];
    for (unsigned i = 1; i < e->lx->links->len; i++)
        if (row[i * RLX_LNK_ROW + field] != agreed) agreed = 0;
    emit_put(e, "#define RLX_FIXED_%s %u\n", name, agreed);
}

/* The kinds of the outputs, where their states differ in size. */
static void put_states(struct emit *e)
{
    static const char *const ids[] = {
#define ID(id, word, drive) [RLX_KIND_##id] = #id,
        RLX_OUTPUT_KINDS(ID)
#undef ID
    };
    static const bool moves_by[] = {
#define MOVES(id, has, name, moves, switched) [RLX_DRIVE_##id] = (moves),
        RLX_DRIVES(MOVES)
#undef MOVES
    };
    static const unsigned drive_of[] = {
#define DRIVE(id, word, drive) [RLX_KIND_##id] = RLX_DRIVE_##drive,
        RLX_OUTPUT_KINDS(DRIVE)
#undef DRIVE
    };
    const GPtrArray *outputs = e->lx->outputs;
    GString *states = g_string_new("");
    bool differ = false,
         own = image_needs(e->image, RLX_BIT_ACTS) || image_needs(e->image, RLX_BIT_TONE);
    for (unsigned i = 0; i < outputs->len; i++) {
        unsigned kind = ((struct lex_output *)outputs->pdata[i])->kind;
        differ |= kind != ((struct lex_output *)outputs->pdata[0])->kind;
        own |= moves_by[drive_of[kind]];
        g_string_append_printf(states, " X(%u, %s)", i, ids[kind]);
    }
    if (differ && own) emit_put(e, "#define RLX_FIXED_STATES(X)%s\n", states->str);
    g_string_free(states, TRUE);
}

/* What the compiler then knows of the tables. */
static void put_fixed(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    const char *sum = e->image->fingerprint;
    emit_put(e, "#if RLX_FIXED\n#define RLX_FIXED_FINGERPRINT 0x%su\n", sum);
    emit_put(e, "#define RLX_FIXED_IMAGE rlx_image_%s\n", sum);
    emit_put(e, "#define RLX_FIXED_HANDLERS rlx_handlers_%s\n", sum);
    emit_put(e, "#define RLX_FIXED_INVOKERS rlx_invokers_%s\n", sum);
    emit_put(e, "#define RLX_FIXED_LINKS %u\n", lx->links->len);
    emit_put(e, "#define RLX_FIXED_OUTPUTS %u\n", lx->outputs->len);
    put_states(e);
    emit_put(e, "#define RLX_FIXED_INPUTS %u\n", lx->inputs->len);
    emit_put(e, "#define RLX_FIXED_ROUTINES %u\n", lx->routines->len);
    emit_put(e, "#define RLX_FIXED_SETTINGS %u\n", lex_n_settings(lx));
    emit_put(e, "#define RLX_FIXED_SETTING_TEXTS %u\n", e->image->setting_texts);
    emit_put(e, "#define RLX_FIXED_RESTS %u\n", e->image->rests);
    emit_put(e, "#define RLX_FIXED_BETWEEN %uu\n", lex_nv_between(lx));
    put_agreed(e, "RECEIVE", RLX_LNK_RECEIVE);
    put_agreed(e, "TRANSMIT", RLX_LNK_TRANSMIT);
    put_agreed(e, "LONGEST", RLX_LNK_LONGEST);
    put_constants(e, "HEADER", e->image->bytes->data, RLX_IMG_HEADER);
    put_common(e, "ROW", false, RLX_LNK_ROW);
    put_common(e, "MORE", true, RLX_MORE_SIZE);
    unsigned operand = 0, kinds = e->image->operands;
    while (kinds >> operand > 1) operand++;
    emit_put(e, "#define RLX_FIXED_OPERAND 0x%02X /* 0xFF: several */\n",
             kinds == 1u << operand ? operand * RLX_OPERAND_ENTRY : 0xFFu);
    emit_put(e, "#define RLX_FIXED_HASHED %u\n", e->image->hashed);
    put_constants(e, "HASH", e->image->bytes->data + e->image->hashed, 6);
    emit_put(e, "#endif\n");
}

void emit_config(struct emit *e)
{
    emit_made_by(e);
    emit_put(e,
             "/* What the library needs for it: compile all of it with "
             "-DRLX_CONFIG='\"%s_config.h\"'. */\n",
             e->lx->name);
    emit_put(e, "#define RLX_LEXICON \"%s %u %s\" /* for the simulated port */\n", e->lx->name,
             e->lx->version, e->image->fingerprint);
    for (unsigned i = 0; i < G_N_ELEMENTS(features); i++)
        emit_put(e, "#define RLX_HAS_%s %d /* %s */\n", features[i].id,
                 (int)image_needs(e->image, i), features[i].name);
    emit_put(e, "#define RLX_BUILT_IN %u /* built-in words */\n", e->lx->built_in);
    for (unsigned i = 0; i < N_KNOBS; i++) { /* one of the command line goes before it */
        int needs = knob_needs(e, i);
        unsigned value = needs < 0                 ? knobs[i].normal
                         : i == KNOB_NV_AREA_BYTES ? lex_nv_area(e->lx)
                                                   : MAX((unsigned)needs, knobs[i].least);
        emit_put(e, "#ifndef RLX_%s /* %s */\n#define RLX_%s %u\n#endif\n", knobs[i].id,
                 knobs[i].counts, knobs[i].id, value);
    }
    put_fixed(e);
}
