/* The emitted handset of pad.lexicon: prints the bytes that it sends. */
#include <stdio.h>

#include "pad_hand.h"

static uint32_t now;

bool pad_hand_on_button(struct pad_hand *h, enum pad_hand_button button)
{
    (void)h, (void)button;
    return now < 500;
}

uint16_t pad_hand_on_slider(struct pad_hand *h, enum pad_hand_slider slider)
{
    (void)h, (void)slider;
    return now < 1500 ? 0 : now < 2500 ? 30000 : 65535;
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
    for (; now < 4000; now += 5) pad_hand_poll(&hand, now);
    return 0;
}
