/* The network and people's phones: messages that are sent, delayed, lost, joined.
 * Each message has its own time from the world's seed.
 * It knows no modem command. */
#include "world/modem/network.h"

#include <string.h>

#include "world/modem/alphabet.h"
#include "world/modem/modem.h"

/* The world begins on 2026-03-01 at 08:00 UTC. */
#define BEGINS  UINT64_C(825667200)
#define HOLD_US UINT64_C(15000000) /* a modem that cannot take a message is asked again */
#define PART    153u               /* septets of one of several, 67 characters of UCS2 */
#define PART_16 67u

struct member {
    struct sms_modem *modem;
    char *number;
};

struct letter {
    struct network *network;
    char *to;
    char *from, *text; /* to a phone */
    uint8_t part, parts, parts_of;
    GByteArray *tpdu; /* to a modem */
};

/* The parts of a text that a phone has so far, from 1. */
struct pile {
    char *from, *to, *text[256];
    uint8_t parts, parts_of;
};

struct network {
    struct world *world;
    struct draw draw;
    struct network_faults faults;
    network_phone phone;
    void *user;
    GPtrArray *members; /* struct member * */
    GPtrArray *letters; /* struct letter * */
    GPtrArray *piles;   /* struct pile * */
    uint8_t parts_of;
};

static void member_free(void *p)
{
    g_free(((struct member *)p)->number);
    g_free(p);
}

static void letter_free(void *p)
{
    struct letter *letter = p;
    g_free(letter->to);
    g_free(letter->from);
    g_free(letter->text);
    if (letter->tpdu) g_byte_array_free(letter->tpdu, TRUE);
    g_free(letter);
}

static void pile_free(void *p)
{
    struct pile *pile = p;
    for (unsigned i = 0; i < 256; i++) g_free(pile->text[i]);
    g_free(pile->from);
    g_free(pile->to);
    g_free(pile);
}

struct network *network_new(struct world *world, uint32_t seed, network_phone phone, void *user)
{
    struct network *n = g_new0(struct network, 1);
    n->world = world;
    n->phone = phone;
    n->user = user;
    n->faults.delay_us = 3000000;
    n->draw = draw_from(seed);
    n->members = g_ptr_array_new_with_free_func(member_free);
    n->letters = g_ptr_array_new_with_free_func(letter_free);
    n->piles = g_ptr_array_new_with_free_func(pile_free);
    return n;
}

void network_free(struct network *n)
{
    if (!n) return;
    g_ptr_array_free(n->members, TRUE);
    g_ptr_array_free(n->letters, TRUE);
    g_ptr_array_free(n->piles, TRUE);
    g_free(n);
}

struct network_faults *network_faults(struct network *n)
{
    return &n->faults;
}

void network_join(struct network *n, struct sms_modem *modem, const char *number)
{
    struct member *member = g_new0(struct member, 1);
    member->modem = modem;
    member->number = g_strdup(number);
    g_ptr_array_add(n->members, member);
}

static struct member *member_of(const struct network *n, const char *number)
{
    for (unsigned i = 0; i < n->members->len; i++) {
        struct member *member = n->members->pdata[i];
        if (!strcmp(member->number, number)) return member;
    }
    return NULL;
}

uint64_t network_seconds(const struct network *n)
{
    return BEGINS + n->world->now_us / 1000000;
}

unsigned network_under_way(const struct network *n)
{
    return n->letters->len;
}

static struct pile *pile_of(struct network *n, const struct letter *letter)
{
    for (unsigned i = 0; i < n->piles->len; i++) {
        struct pile *pile = n->piles->pdata[i];
        if (pile->parts_of == letter->parts_of && pile->parts == letter->parts &&
            !strcmp(pile->from, letter->from) && !strcmp(pile->to, letter->to))
            return pile;
    }
    struct pile *pile = g_new0(struct pile, 1);
    pile->from = g_strdup(letter->from);
    pile->to = g_strdup(letter->to);
    pile->parts_of = letter->parts_of;
    pile->parts = letter->parts;
    g_ptr_array_add(n->piles, pile);
    return pile;
}

/* Of several parts a phone shows the whole, when all have come. */
static void to_phone(struct network *n, const struct letter *letter)
{
    if (letter->parts < 2 || !letter->part || letter->part > letter->parts) {
        n->phone(n->user, letter->from, letter->to, letter->text);
        return;
    }
    struct pile *pile = pile_of(n, letter);
    if (pile->text[letter->part]) return;
    pile->text[letter->part] = g_strdup(letter->text);
    GString *whole = g_string_new(NULL);
    unsigned part = 1;
    for (; part <= pile->parts && pile->text[part]; part++)
        g_string_append(whole, pile->text[part]);
    if (part > pile->parts) {
        n->phone(n->user, letter->from, letter->to, whole->str);
        g_ptr_array_remove(n->piles, pile);
    }
    g_string_free(whole, TRUE);
}

static void on_arrival(void *data, uint32_t number)
{
    struct letter *letter = data;
    struct network *n = letter->network;
    const struct member *member = member_of(n, letter->to);
    (void)number;
    if (letter->tpdu && member &&
        !modem_deliver(member->modem, letter->tpdu->data, letter->tpdu->len)) {
        world_at(n->world, n->world->now_us + HOLD_US, on_arrival, letter, 0);
        return;
    }
    if (letter->text && n->phone) to_phone(n, letter);
    g_ptr_array_remove(n->letters, letter);
}

static void carry_once(struct network *n, const struct letter *like)
{
    struct letter *letter = g_new0(struct letter, 1);
    uint64_t spread = n->faults.spread_us
                          ? draw_below(&n->draw, (uint32_t)MIN(n->faults.spread_us, UINT32_MAX))
                          : 0;
    letter->network = n;
    letter->to = g_strdup(like->to);
    letter->from = g_strdup(like->from);
    letter->text = g_strdup(like->text);
    letter->part = like->part;
    letter->parts = like->parts;
    letter->parts_of = like->parts_of;
    if (like->tpdu) {
        letter->tpdu = g_byte_array_new();
        g_byte_array_append(letter->tpdu, like->tpdu->data, like->tpdu->len);
    }
    g_ptr_array_add(n->letters, letter);
    world_at(n->world, n->world->now_us + n->faults.delay_us + spread, on_arrival, letter, 0);
}

static void carry(struct network *n, const struct letter *like)
{
    if (draw_happens(&n->draw, n->faults.loss)) return;
    carry_once(n, like);
    if (draw_happens(&n->draw, n->faults.twice)) carry_once(n, like);
}

void network_carry(struct network *n, const char *to, const guint8 *tpdu, unsigned size)
{
    GByteArray bytes = {(guint8 *)tpdu, size};
    struct letter letter = {.to = (char *)to, .tpdu = &bytes};
    carry(n, &letter);
}

/* The next part of a text, and where the one behind it begins. */
static char *part_of(const char *text, const char **rest, bool ucs2)
{
    const char *end = text;
    unsigned places = 0;
    while (*end) {
        char *one = g_strndup(end, (gsize)(g_utf8_next_char(end) - end));
        GByteArray *septets = ucs2 ? NULL : alphabet_septets(one);
        unsigned takes = ucs2 ? 1u + (g_utf8_get_char(end) > 0xFFFF) : septets->len;
        if (!ucs2) g_byte_array_free(septets, TRUE);
        g_free(one);
        if (places + takes > (ucs2 ? PART_16 : PART)) break;
        places += takes;
        end = g_utf8_next_char(end);
    }
    *rest = end;
    return g_strndup(text, (gsize)(end - text));
}

static bool write_part(struct network *n, const char *to, struct tpdu *part)
{
    tpdu_stamp(network_seconds(n), n->faults.quarters, part->stamp);
    GByteArray *tpdu = tpdu_deliver(part);
    if (!tpdu) return false;
    network_carry(n, to, tpdu->data, tpdu->len);
    g_byte_array_free(tpdu, TRUE);
    return true;
}

bool network_write(struct network *n, const char *from, const char *to, const char *text)
{
    if (!g_utf8_validate(text, -1, NULL)) return false;
    GByteArray *septets = alphabet_septets(text);
    bool ucs2 = !septets;
    struct tpdu whole = {.number = (char *)from, .text = (char *)text, .coding = ucs2 ? 8 : 0};
    if (septets) g_byte_array_free(septets, TRUE);
    if (write_part(n, to, &whole)) return true;
    whole.parts_of = ++n->parts_of;
    for (const char *at = text; *at && whole.parts < 255; whole.parts++)
        g_free(part_of(at, &at, ucs2));
    for (const char *at = text; *at && whole.part < whole.parts;) {
        whole.text = part_of(at, &at, ucs2);
        whole.part++;
        bool ok = write_part(n, to, &whole);
        g_free(whole.text);
        if (!ok) return false;
    }
    return whole.parts > 0;
}

/* The centre reports its arrival to the modem. */
static void report_back(struct network *n, const char *number, const struct tpdu *submitted)
{
    uint8_t came[7];
    struct tpdu t = *submitted;
    tpdu_stamp(network_seconds(n), n->faults.quarters, t.stamp);
    tpdu_stamp(network_seconds(n) + n->faults.delay_us / 1000000, n->faults.quarters, came);
    GByteArray *report = tpdu_report(&t, came, 0);
    if (!report) return;
    network_carry(n, number, report->data, report->len);
    g_byte_array_free(report, TRUE);
}

bool network_submit(struct network *n, struct sms_modem *from, const struct tpdu *submitted)
{
    const char *number = "";
    if (draw_happens(&n->draw, n->faults.rejects)) return false;
    for (unsigned i = 0; i < n->members->len; i++) {
        const struct member *member = n->members->pdata[i];
        if (member->modem == from) number = member->number;
    }
    if (submitted->report) report_back(n, number, submitted);
    if (member_of(n, submitted->number) && submitted->parts) {
        struct tpdu part = *submitted;
        part.number = (char *)number;
        part.coding = tpdu_is_ucs2(part.coding) ? 8 : 0;
        return write_part(n, submitted->number, &part);
    }
    if (member_of(n, submitted->number))
        return network_write(n, number, submitted->number, submitted->text);
    struct letter letter = {.to = submitted->number,
                            .from = (char *)number,
                            .text = submitted->text,
                            .part = submitted->part,
                            .parts = submitted->parts,
                            .parts_of = submitted->parts_of};
    carry(n, &letter);
    return true;
}
