/* What inputs do, and links: commands of the lexicon, when an input goes on or off or is held, when
 * a link comes up or is lost. Each is a step without a reply; a routine that acts on the same
 * output ends, as by a command. When an input changes is found in src/drive/input.c, a link in
 * presence.c.
 */
#include "core.h"

#if RLX_INPUTS_ACT || RLX_LINKS_ACT

RLX_INTERNAL void rlx_acts(struct rlx_device *d, uint8_t number, uint8_t when)
{
    rlx_rom at = rlx_part(d, RLX_IMG_ACTS), end = at + 2 + RLX_ROM16(at);
    if (at == rlx_image(d)) return;
    for (at += 2; at != end; at += RLX_ACT_ELEMENTS + RLX_ROM8(at + RLX_ACT_LENGTH))
        if (RLX_ROM8(at + RLX_ACT_NUMBER) == number && RLX_ROM8(at + RLX_ACT_WHEN) == when)
            rlx_step(d, at + RLX_ACT_ELEMENTS, true);
}
#endif
