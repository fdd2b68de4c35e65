/* Switches and buttons: they bounce, stick, and their wires are cut.
 * What moves them switches them on and off.
 * They drive the input pins, and nothing else does. */
#include "world/loads/load_parts.h"

#include <string.h>

#define FLICKS   5 /* bounces of a switch or button, a little slower than a relay's */
#define FLICK_US 800

void load_show_sensor(const struct sensor *s, bool on)
{
    bool high = on != s->in->active_low;
    if (s->cut) high = s->in->pull == LEX_PULL_UP;
    s->all->ends.pin(s->all->ends.user, (uint8_t)s->in->pin, high);
}

/* argument: flicks that are left, and the version. */
static void on_flick(void *data, uint32_t argument)
{
    struct sensor *s = data;
    unsigned left = argument & 0xFF;
    if (argument >> 8 != (s->version & 0xFFFFFF) || s->stuck || s->cut) return;
    load_show_sensor(s, s->on != (left & 1));
    if (left)
        world_at(s->all->world, s->all->world->now_us + 1 + load_draw(s->all, FLICK_US), on_flick,
                 s, argument - 1);
}

void load_set_sensor(struct sensor *s, bool on)
{
    if (s->on == on) return;
    s->on = on;
    s->version++;
    world_at(s->all->world, s->all->world->now_us, on_flick, s,
             (s->version & 0xFFFFFF) << 8 | (FLICKS & ~1u));
}

struct sensor *load_sensor(struct loads *l, const char *name)
{
    for (unsigned i = 0; name && i < l->lx->inputs->len; i++)
        if (!strcmp(l->sensors[i].in->name, name)) return &l->sensors[i];
    return NULL;
}

bool load_break_sensor(struct sensor *s, const char *how)
{
    if (!strcmp(how, "mend"))
        s->stuck = s->cut = false;
    else if (!strcmp(how, "stick"))
        s->stuck = true;
    else if (!strcmp(how, "cut"))
        s->cut = true;
    else
        return false;
    s->version++;
    if (!s->stuck) load_show_sensor(s, s->on);
    return true;
}
