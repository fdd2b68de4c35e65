/* Relays: the contact follows its coil late, bounces, wears and may weld.
 * A reverser has two of them.
 * What hangs on the contact is somewhere else. */
#include "world/loads/load_parts.h"

#define CLOSE_US  8000 /* from the coil to the contact */
#define OPEN_US   4000
#define BOUNCE_US 400 /* most between two of its bounces */
#define BOUNCES   3

/* argument: which contact, bounces that are left, and the version. */
static void on_contact(void *data, uint32_t argument)
{
    struct load *load = data;
    struct contact *c = &load->contact[argument & 1];
    unsigned left = argument >> 1 & 0x7F;
    if (argument >> 8 != (c->version & 0xFFFFFF)) return;
    bool was = c->closed;
    c->closed = c->welded || c->coil != (left & 1);
    c->wear += !was && c->closed;
    load_contacts_changed(load);
    if (left)
        world_at(load->all->world, load_in_us(load, 1 + load_draw(load->all, BOUNCE_US)),
                 on_contact, load, argument - 2);
    else if (load->out->kind == LEX_RELAY)
        load_tell(load, c->closed ? "contact closed" : "contact open");
}

void load_set_coil(struct load *load, unsigned which, bool on)
{
    struct contact *c = &load->contact[which];
    if (c->coil == on) return;
    c->coil = on;
    c->version++;
    world_at(load->all->world, load_in_us(load, on ? CLOSE_US : OPEN_US), on_contact, load,
             (c->version & 0xFFFFFF) << 8 | (on ? (BOUNCES & ~1u) << 1 : 0) | which);
}

static void relay_pin(struct load *load, struct sim_event event)
{
    if (event.kind == SIM_PIN && event.index == load->out->pin)
        load_set_coil(load, 0, (event.value != 0) != load->out->active_low);
}

const struct load_kind load_kind_relay = {.out = relay_pin, .breaks = LOAD_WELD};
