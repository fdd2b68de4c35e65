/* The emitted handset of pad.lexicon: prints the bytes that it sends. */
#include <stdio.h>

#include "pad_hand.h"

static uint32_t now;

bool pad_hand_on_button(struct pad_hand *h, enum pad_hand_button button)
{
    (void)h;
    return button == PAD_HAND_BUTTON_RUN ? now >= 50 && now < 500 : now >= 100 && now < 3000;
}

uint16_t pad_hand_on_slider(struct pad_hand *h, enum pad_hand_slider slider)
{
    (void)h, (void)slider;
    return now < 5000 ? 0 : now < 7000 ? 30000 : 65535;
}

bool pad_hand_on_write(struct pad_hand *h, const uint8_t *bytes, uint8_t count)
{
    (void)h;
    printf("%.*s ", (int)count, (const char *)bytes);
    return true;
}

void pad_hand_on_heard(struct pad_hand *h, const struct pad_panel_heard *heard)
{
    (void)h, (void)heard;
}

int main(void)
{
    static struct pad_hand hand;
    if (pad_hand_init(&hand)) return 1;
    for (; now < 9000; now += 5) pad_hand_poll(&hand, now);
    return 0;
}
