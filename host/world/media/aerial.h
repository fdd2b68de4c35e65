/* What is on the air: a device's radio link, and a controller that sends commands to devices until
 * they are answered. */
#ifndef AERIAL_H
#define AERIAL_H

#include "world/run/running.h"
#include "world/media/radio.h"
#include "rlx/client.h"

/* A device's link on the air; what the device sends goes through aerial_out(). */
struct aerial {
    struct radio *radio;
    struct device *device;
    uint8_t link;
    unsigned node;
    uint8_t packet[255]; /* that it is sending, and bytes of it so far */
    unsigned count;
};
struct aerial *aerial_new(struct radio *radio, struct device *device, uint8_t link);
/* Something the device did: a packet of this link goes on the air, all else is not for it. */
void aerial_out(struct aerial *aerial, struct sim_event event);

struct controller;
typedef void (*controller_told)(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                                unsigned count);

/* How it speaks; the other members of the retry client are its own. */
struct manner {
    uint8_t to, from, fixed, tries; /* from 0: frames name no sender */
    char pad;                       /* what fills a fixed packet */
    bool check, one_way, all, no_address;
    uint16_t pause_ms;
    uint32_t window_ms;
    uint16_t start; /* of its tags */
    /* Where the link has seals; NULL: it has none. Both are the controller's then. */
    char *key, *context;
    char *key_to_all; /* NULL: the same */
    uint8_t key_number, key_to_all_number;
    bool halt_sealed;
};
struct controller *controller_new(struct world *world, struct radio *radio, struct manner manner,
                                  controller_told told, void *user);
/* It is switched on anew: its queue is forgotten. */
void controller_restart(struct controller *controller, struct manner manner);
void controller_free(struct controller *controller);
/* As rlx_client_send(): 0, or negative where its queue is full or the text too long. */
int controller_say(struct controller *controller, const char *text);
unsigned controller_node(const struct controller *controller);

#endif
