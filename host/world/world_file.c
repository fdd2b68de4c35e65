#include "world_file.h"

#include <string.h>

#include "draw.h"
#include "reader.h"

/* What a statement changes. */
struct target {
    struct world_file *file;
    uint64_t at_us;
};

/* 20%, 0.5%, 1/1000 -> parts of a billion */
static bool read_chance(struct statement *st, const char *what, uint32_t *chance)
{
    struct token *token = statement_take(st);
    char *end = NULL;
    guint64 a = token->kind == TOKEN_WORD ? g_ascii_strtoull(token->text, &end, 10) : 0, b = 0;
    guint64 part = 1;
    bool ok = end && end != token->text && a <= 1000000;
    if (ok && *end == '/') {
        b = g_ascii_strtoull(end + 1, &end, 10);
        ok = b > 0 && b <= BILLION && a <= b && !*end;
        if (ok) *chance = (uint32_t)(a * BILLION / b);
    } else if (ok) {
        a *= BILLION / 100;
        if (*end == '.')
            for (end++; g_ascii_isdigit(*end) && part < 10000000; end++) {
                part *= 10;
                a += (guint64)(*end - '0') * (BILLION / 100) / part;
            }
        ok = !strcmp(end, "%") && a <= BILLION;
        if (ok) *chance = (uint32_t)a;
    }
    if (!ok)
        lex_fault(st->lx, token->place, "%s: a chance like 20%%, 0.5%% or 1/1000, at most 100%%",
                  what);
    return ok;
}

#define READ_CHANCE(name, member, what)                                       \
    static bool read_##name(struct statement *st, void *target)               \
    {                                                                         \
        return read_chance(st, what, &((struct world_link *)target)->member); \
    }
READ_CHANCE(noise, faults.noise, "how often a bit is read wrong")
READ_CHANCE(lost, faults.lost, "how many bytes do not come")
READ_CHANCE(byte_twice, faults.twice, "how many bytes come two times")
READ_CHANCE(loss, air.loss, "how many packets do not come")
READ_CHANCE(twice, air.twice, "how many packets come two times")
READ_CHANCE(errors, air.bit_errors, "how often a bit is turned")
READ_CHANCE(duty, air.duty, "the share of an hour that each may send")

static bool read_baud(struct statement *st, void *target)
{
    return statement_number(st, "the baud rate of the sender's end", 50, 4000000,
                            &((struct world_link *)target)->faults.baud);
}

static bool read_bits(struct statement *st, void *target)
{
    unsigned bits;
    if (!statement_number(st, "bits a second on the air", 10, 10000000, &bits)) return false;
    ((struct world_link *)target)->air.bits_a_second = bits;
    return true;
}

/* late 20% by 60ms */
static bool read_late(struct statement *st, void *target)
{
    struct world_link *link = target;
    uint32_t ms;
    if (!read_chance(st, "how many packets come late", &link->air.late)) return false;
    if (!statement_take_word(st, "by")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'by' and the most that they are late");
        return false;
    }
    if (!statement_time(st, "the most that they are late", 1, 3600000, &ms)) return false;
    link->air.late_us = ms * 1000;
    return true;
}

static bool read_us(struct statement *st, const char *what, uint32_t *us)
{
    uint32_t ms;
    if (!statement_time(st, what, 1, 60000, &ms)) return false;
    *us = ms * 1000;
    return true;
}

static bool read_typing(struct statement *st, void *target)
{
    return read_us(st, "the time between two keys",
                   &((struct world_link *)target)->faults.typing_us);
}

static bool read_latency(struct statement *st, void *target)
{
    return read_us(st, "how long a byte takes", &((struct world_link *)target)->faults.late_us);
}

static bool read_clumps(struct statement *st, void *target)
{
    return read_us(st, "how long bytes wait for each other",
                   &((struct world_link *)target)->faults.clump_us);
}

static bool read_gone(struct statement *st, void *target)
{
    (void)st;
    return ((struct world_link *)target)->faults.gone = true;
}

static bool read_open(struct statement *st, void *target)
{
    (void)st;
    return ((struct world_link *)target)->faults.open = true;
}

static bool read_crossed(struct statement *st, void *target)
{
    (void)st;
    return ((struct world_link *)target)->faults.crossed = true;
}

static bool read_no(struct statement *st, void *target)
{
    if (!statement_take_word(st, "answers")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: no answers");
        return false;
    }
    return ((struct world_link *)target)->faults.no_answers = true;
}

#define BRIDGE (1u << LEX_BRIDGE)
static const struct attribute cable[] = {{"baud", 0, read_baud},
                                         {"noise", 0, read_noise},
                                         {"lost", 0, read_lost},
                                         {"twice", 0, read_byte_twice},
                                         {"open", 0, read_open},
                                         {"crossed", 0, read_crossed},
                                         {"no", 0, read_no},
                                         {"typing", 0, read_typing},
                                         {"latency", BRIDGE, read_latency},
                                         {"clumps", BRIDGE, read_clumps},
                                         {"gone", BRIDGE, read_gone},
                                         {NULL, 0, NULL}};

static const struct attribute air[] = {
    {"bits", 0, read_bits}, {"loss", 0, read_loss},     {"twice", 0, read_twice},
    {"late", 0, read_late}, {"errors", 0, read_errors}, {"duty", 0, read_duty},
    {NULL, 0, NULL}};

/* The link that is named; NULL after a fault. */
static const struct lex_link *named_link(struct statement *st, unsigned media, unsigned *number)
{
    struct target *t = st->lx->target;
    const struct lexicon *lx = t->file->lx;
    struct token *token = statement_peek(st);
    char *name = statement_name(st, "a link of the lexicon");
    const struct lex_link *link = name ? lexicon_link(lx, name) : NULL;
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *other = lx->links->pdata[i];
        if (other == link) *number = i;
        if (media >> other->medium & 1) g_ptr_array_add(names, other->name);
    }
    g_ptr_array_add(names, NULL);
    if (name && (!link || !(media >> link->medium & 1))) {
        char *all = g_strjoinv(", ", (char **)names->pdata);
        lex_fault(st->lx, token->place, "'%s' is no link of this kind%s", name,
                  *all ? "" : "; the lexicon has none");
        if (*all) {
            struct lex_fault *fault = st->lx->faults->pdata[st->lx->faults->len - 1];
            fault->advice = g_strdup(all);
        }
        g_free(all);
        link = NULL;
    }
    g_ptr_array_free(names, TRUE);
    g_free(name);
    return link;
}

/* What was said of the link last; at first nothing is wrong with it. */
static struct world_link last_of(const struct world_file *file, unsigned number)
{
    struct world_link link = {.link = number};
    const struct lex_link *of = file->lx->links->pdata[number];
    link.air = (struct air){
        .payload = of->payload ? of->payload : 255, .bits_a_second = 50000, .before_us = 1000};
    for (unsigned i = 0; i < file->links->len; i++) {
        const struct world_link *other = &g_array_index(file->links, struct world_link, i);
        if (other->link == number) link = *other;
    }
    return link;
}

static void read_link_of(struct statement *st, unsigned media, const struct attribute *known)
{
    struct target *t = st->lx->target;
    unsigned number = 0;
    const struct lex_link *named = named_link(st, media, &number);
    if (!named) return;
    struct world_link link = last_of(t->file, number);
    link.at_us = t->at_us;
    link.is_air = known == air;
    link.faults.open = link.faults.crossed = link.faults.no_answers = link.faults.gone = false;
    if (!statement_attributes(st, known, named->medium,
                              link.is_air ? "air" : lex_media[named->medium], &link))
        return;
    g_free(statement_title(st));
    g_array_append_val(t->file->links, link);
}

static void read_cable(struct statement *st)
{
    read_link_of(st, 1u << LEX_SERIAL | 1u << LEX_BRIDGE | 1u << LEX_MODEM, cable);
}

static void read_air(struct statement *st)
{
    read_link_of(st, 1u << LEX_RADIO, air);
}

static void read_seed(struct statement *st)
{
    struct target *t = st->lx->target;
    unsigned seed;
    if (statement_number(st, "the seed", 1, UINT32_MAX, &seed)) t->file->seed = seed;
}

static bool read_from(struct statement *st, void *target)
{
    return statement_number(st, "its source", 1, 32, &((struct world_controller *)target)->from);
}

static bool read_tries(struct statement *st, void *target)
{
    return statement_number(st, "how often it says a command", 1, 20,
                            &((struct world_controller *)target)->tries);
}

static bool read_pause(struct statement *st, void *target)
{
    return statement_time(st, "the time to its second try", 1, 10000,
                          &((struct world_controller *)target)->pause_ms);
}

static const struct attribute controller[] = {
    {"from", 0, read_from}, {"tries", 0, read_tries}, {"pause", 0, read_pause}, {NULL, 0, NULL}};

/* controller NAME on LINK from N tries N pause T */
static void read_controller(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_controller c = {.from = 1, .tries = 4, .pause_ms = 200};
    c.name = statement_name(st, "the controller's name");
    if (!c.name) return;
    if (!statement_take_word(st, "on")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected 'on' and a radio link");
        g_free(c.name);
        return;
    }
    struct lex_place place = statement_peek(st)->place;
    const struct lex_link *link = named_link(st, 1u << LEX_RADIO, &c.link);
    bool ok = link && statement_attributes(st, controller, 0, "controller", &c);
    if (link && (link->address < 0 || !link->tags)) {
        lex_fault(st->lx, place, "a controller needs a link with address, senders and tags");
        ok = false;
    }
    if (ok) g_free(statement_title(st));
    if (ok)
        g_array_append_val(t->file->controllers, c);
    else
        g_free(c.name);
}

static void read_after(struct statement *st);

static const struct lex_statement_kind kinds[] = {
    {"seed", read_seed},   {"cable", read_cable},
    {"air", read_air},     {"controller", read_controller},
    {"after", read_after}, {NULL, NULL}};

/* reset [CAUSE] */
static void read_reset(struct statement *st, uint64_t at_us)
{
    static const char *const causes[] = {
#define NAME(id, name) name,
        RLX_RESETS(NAME)
#undef NAME
            NULL};
    struct target *t = st->lx->target;
    struct world_reset reset = {.at_us = at_us};
    unsigned cause = RLX_RESET_POWER;
    if (statement_peek(st)->kind == TOKEN_WORD &&
        !statement_one_of(st, "why it starts anew", causes, &cause))
        return;
    reset.cause = (enum rlx_reset)cause;
    g_free(statement_title(st));
    g_array_append_val(t->file->resets, reset);
}

/* after T cable ..., air ... */
static void read_after(struct statement *st)
{
    struct target *t = st->lx->target;
    uint32_t ms;
    if (!statement_time(st, "when it begins", 1, 86400000, &ms)) return;
    struct token *token = statement_take(st);
    t->at_us = ms * UINT64_C(1000);
    if (token->kind == TOKEN_WORD && !strcmp(token->text, "cable"))
        read_cable(st);
    else if (token->kind == TOKEN_WORD && !strcmp(token->text, "air"))
        read_air(st);
    else if (token->kind == TOKEN_WORD && !strcmp(token->text, "reset"))
        read_reset(st, t->at_us);
    else
        lex_fault(st->lx, token->place,
                  "expected 'cable' or 'air' and what is so from then on, or 'reset'");
    t->at_us = 0;
}

static void clear_controller(void *p)
{
    g_free(((struct world_controller *)p)->name);
}

struct world_file *world_file_read(const char *name, const struct lexicon *lx, GError **error)
{
    char *text;
    gsize size;
    if (!g_file_get_contents(name, &text, &size, error)) return NULL;
    struct world_file *file = g_new0(struct world_file, 1);
    struct target target = {file, 0};
    file->seed = 1;
    file->lx = lx;
    file->links = g_array_new(FALSE, FALSE, sizeof(struct world_link));
    file->controllers = g_array_new(FALSE, FALSE, sizeof(struct world_controller));
    file->resets = g_array_new(FALSE, FALSE, sizeof(struct world_reset));
    g_array_set_clear_func(file->controllers, clear_controller);
    file->read = lex_read_other(name, text, size, kinds, &target);
    file->read->target = NULL;
    return file;
}

void world_file_free(struct world_file *file)
{
    if (!file) return;
    g_array_free(file->links, TRUE);
    g_array_free(file->controllers, TRUE);
    g_array_free(file->resets, TRUE);
    lexicon_free(file->read);
    g_free(file);
}
