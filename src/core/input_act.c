/* What inputs do: commands of the lexicon, when an input goes on or off or is held.
 * Each is a step without a reply; a routine that acts on the same output ends, as by a command.
 * When an input changes is found in src/drive/input.c. */
#include "core.h"

#if RLX_HAS_INPUT_ACTS && RLX_HAS_INPUTS

RLX_INTERNAL void rlx_input_acts(struct rlx_device *d, uint8_t input, uint8_t when)
{
    rlx_rom at = rlx_part(d, RLX_IMG_ACTS), end = at + 2 + RLX_ROM16(at);
    if (at == rlx_image(d)) return;
    for (at += 2; at != end; at += RLX_ACT_ELEMENTS + RLX_ROM8(at + RLX_ACT_LENGTH))
        if (RLX_ROM8(at + RLX_ACT_INPUT) == input && RLX_ROM8(at + RLX_ACT_WHEN) == when)
            rlx_step(d, at + RLX_ACT_ELEMENTS, true);
}
#endif
