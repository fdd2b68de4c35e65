/* What hangs on the pins, as it behaves: relay contacts that take their time, bounce and wear,
 * lamps as the eye sees them, motors with inertia, shafts between end switches, servos that slew,
 * buttons that bounce; and what can be broken about them. Integers only; every draw is from the
 * seed. */
#ifndef LOADS_H
#define LOADS_H

#include "lexicon/model.h"
#include "sim/sim.h"
#include "world/run/world.h"

struct loads;

struct loads_ends {
    void *user;
    /* An input pin is at this level from now on. */
    void (*pin)(void *user, uint8_t pin, bool high);
    /* Something about this output or input: "contact closed", "at its upper end". May be NULL. */
    void (*told)(void *user, const char *name, const char *what);
};

struct loads *loads_new(struct world *world, const struct lexicon *lx, uint32_t seed,
                        struct loads_ends ends);
void loads_free(struct loads *loads);

/* Puts the inputs where they are at the start: shafts stand in the middle, no button is pressed.
 * After the device was switched on. */
void loads_begin(struct loads *loads);

/* What the device did: SIM_PIN, SIM_DUTY, SIM_PULSE or SIM_STEPS; the others are nothing to a load.
 */
void loads_out(struct loads *loads, struct sim_event event);

/* An input goes on or off, and bounces; what sees a shaft's end follows the shaft and not this, but
 * where it is pushed by hand. */
void loads_push(struct loads *loads, const struct lex_input *in, bool on);

/* "weld pump", "dead glow", "jam gate", "stick upper", "cut upper" and "mend NAME". False: it is
 * none of these, or that cannot happen to what has this name. */
bool loads_break(struct loads *loads, const char *what);

/* What is so now. */
bool loads_is_on(const struct loads *loads, unsigned output); /* a contact, or a lamp that is lit */
unsigned loads_wear(const struct loads *loads, unsigned output);  /* how often it closed */
unsigned loads_looks(const struct loads *loads, unsigned output); /* lightness, 0..100 */
int loads_speed(const struct loads *loads, unsigned output, unsigned side); /* -1000..1000 */
int loads_place(const struct loads *loads,
                unsigned output); /* 0 closed .. 1000 open; of a servo us, of a stepper steps */
unsigned loads_shorts(const struct loads *loads); /* both relays of a reverser closed at once */
unsigned loads_stalls(const struct loads *loads); /* driven against an end, or while jammed */

/* Lightness of CIE 1976, 0..100, of a duty of 0..65535. */
unsigned loads_lightness(unsigned duty);

#endif
