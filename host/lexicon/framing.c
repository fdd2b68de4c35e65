/* The framings by their number, their traits, and how many bytes a frame of a link has.
 * Tables of rlx/def/frames.h and of what host/framings has.
 * What a framing has of its own is not here. */
#include "lexicon/framing.h"

#include "rlx/def/features.h"

const char *const lex_frames[LEX_FRAMES + 1] = {
#define FRAME(id, word, feature, keyed, ends, whole) [LEX_FRAME_##id] = #word,
    RLX_FRAMES(FRAME)
#undef FRAME
};

static const struct row {
    unsigned need; /* RLX_BIT_... */
    bool keyed, ends, whole;
    const struct lex_framing *own;
} rows[LEX_FRAMES] = {
#define FRAME(id, word, feature, keyed, ends, whole) \
    [LEX_FRAME_##id] = {RLX_BIT_##feature, keyed, ends, whole, &lex_framing_##word},
    RLX_FRAMES(FRAME)
#undef FRAME
};

bool lex_is_keyed(const struct lex_link *link)
{
    return rows[link->frame].keyed;
}

bool lex_ends_itself(const struct lex_link *link)
{
    return rows[link->frame].ends;
}

bool lex_comes_whole(const struct lex_link *link)
{
    return rows[link->frame].whole;
}

const struct lex_framing *lex_framing_of(const struct lex_link *link)
{
    return rows[link->frame].own;
}

unsigned lex_framing_need(const struct lex_link *link)
{
    return rows[link->frame].need;
}

unsigned lex_packet_bytes(const struct lex_link *link)
{
    return lex_framing_of(link)->piece ? 0 : link->payload;
}

unsigned lex_frame_bytes(const struct lex_link *link)
{
    const struct lex_framing *framing = lex_framing_of(link);
    if (framing->holds) return framing->holds(link);
    return lex_packet_bytes(link) ? link->payload : link->longest;
}
