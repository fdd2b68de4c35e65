/* The suite about links with seals: somebody is on the air who hears everything, and sends what he
 * heard or made up. Nothing of it may be obeyed, and nothing may keep a sender with a key from
 * being obeyed. What a link without seals lets through it does not list. */
#include "drill/suites/life.h"

#include <string.h>

#include "world/run/keys.h"

#define CODE "AAAAAAAAAAA"

/* What somebody without a key sends. */
static void forge(struct life *life, const struct lex_link *link, const char *text)
{
    for (unsigned source = 0; source <= MIN(link->senders, 2); source++) {
        char *around = source ? g_strdup_printf("@%d/%u ", link->address, source)
                              : g_strdup_printf("@%d ", link->address);
        life_put(life, "say rogue \"%s%s\"\nwait 20ms", around, text);
        life_put(life, "say rogue \"%s!1.1." CODE " %s\"\nwait 20ms", around, text);
        life_put(life, "say rogue \"%s!1?1." CODE "\"\nwait 20ms", around);
        g_free(around);
    }
    life_put(life, "say rogue \"@* %s\"", text);
    life_put_still(life, text, 500);
}

/* Everything that the attacker heard of this command, and how its session was opened. */
static void replay(struct life *life, const struct lex_link *link, const char *text)
{
    unsigned key = 1;
    keys_of_sender(life->drill->lx, link, link->senders ? 1 : 0, &key);
    const char *check = link->check ? "*" : "";
    life_put(life, "replay rogue \"@%d*!* %s%s\"\nwait 50ms", link->address, text, check);
    life_put(life, "replay rogue \"!%u?\"\nwait 50ms", key);
    life_put(life, "replay rogue \"@%d*!* %s%s\"", link->address, text, check);
    life_put_still(life, text, 500);
}

static void attack(struct life *life, unsigned number, const char *text)
{
    const struct lex_link *link = drill_link(life->drill, number);
    life_obeyed(life, number, text);
    forge(life, link, text);
    life->link = number;
    life_play(life, "attacks", "Over %s nobody commands without a key", link->name);

    life_obeyed(life, number, text);
    life_put(life, "wait 200ms");
    replay(life, link, text);
    const char *other = life_any(life->drill, number);
    if (other && strcmp(other, text) != 0) { /* so that there is a later one */
        life_obeyed(life, number, other);
        life_put(life, "wait 200ms");
        replay(life, link, text);
    }
    life_obeyed(life, number, text);
    life_put(life, "wait %ums", link->window + 1000);
    replay(life, link, text);
    life->link = number;
    life_play(life, "attacks", "A recorded command over %s is not obeyed again", link->name);

    life_obeyed(life, number, text);
    life_put(life, "wait 1s\nnow reset power\nwait 1s");
    replay(life, link, text);
    life_obeyed(life, number, text);
    life_put(life, "wait 200ms");
    replay(life, link, text);
    life->link = number;
    life_play(life, "attacks", "A recorded command over %s is not obeyed after a reset",
              link->name);

    char *who = life_speaker(life, number);
    life_obeyed(life, number, text);
    life_put(life, "wait 100ms\nreplay rogue \"@*ok*\"\nsilence %s 200ms", who);
    life_put(life, "say rogue \"@%u/%d ok %s\"\nsilence %s 200ms", link->senders ? 1u : 0u,
             link->address, text, who);
    life->link = number;
    life_play(life, "attacks", "An answer over %s that the device did not send is nobody's",
              link->name);
    g_free(who);

    life_obeyed(life, number, text);
    life_put(life, "repeat 200\nsay rogue \"@%d%s !1.2." CODE " %s\"\nwait 20ms\nend",
             link->address, link->senders ? "/1" : "", text);
    life_put(life, "wait 200ms");
    life_obeyed(life, number, text);
    life->link = number;
    life_play(life, "attacks", "A flood of forged frames over %s keeps nobody out", link->name);
}

void spoken_attacks(struct life *life)
{
    const struct drill *drill = life->drill;
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        const struct lex_link *link = drill_link(drill, i);
        const struct lex_output *out;
        const char *text = life_toggle(drill, i, true, &out);
        if (!text) text = life_any(drill, i);
        if (link->seal != LEX_DEMAND_REQUIRED || !session_has_client(link) ||
            drill_why_not(drill, i) || !text || drill->real)
            continue;
        struct drill with = *drill;
        struct life own = *life;
        char *world = g_strdup_printf("%sattacker rogue on %s\n", drill->world, link->name);
        with.world = world;
        own.drill = &with;
        attack(&own, i, text);
        g_free(world);
    }
}
