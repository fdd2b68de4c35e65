/* What hangs on the outputs: each kind of it has a file here.
 * Times are drawn from the world's seed; everything is integer.
 * It drives no pin of the device but those of inputs. */
#include "world/loads/load_parts.h"

#include <string.h>

static const struct load_kind *const load_kinds[] = {
#define KIND(id, word, drive) [LEX_##id] = &load_kind_##word,
    RLX_OUTPUT_KINDS(KIND)
#undef KIND
};

/* Marsaglia's xorshift. */
uint32_t load_draw(struct loads *l, uint32_t below)
{
    l->seed ^= l->seed << 13;
    l->seed ^= l->seed >> 17;
    l->seed ^= l->seed << 5;
    return l->seed % below;
}

void load_tell(const struct load *load, const char *what)
{
    const struct loads_ends *ends = &load->all->ends;
    if (ends->told) ends->told(ends->user, load->out->name, what);
}

uint64_t load_in_us(const struct load *load, uint64_t us)
{
    return load->all->world->now_us + us;
}

int32_t load_nearer(int32_t from, int32_t to, int32_t step)
{
    return from < to ? MIN(from + step, to) : MAX(from - step, to);
}

void loads_push(struct loads *l, const struct lex_input *in, bool on)
{
    load_set_sensor(load_sensor(l, in->name), on);
}

void loads_out(struct loads *l, struct sim_event event)
{
    for (unsigned i = 0; i < l->lx->outputs->len; i++) {
        const struct load_kind *kind = load_kinds[l->loads[i].out->kind];
        if (kind->out) kind->out(&l->loads[i], event);
    }
}

/* ---- begin, break, ask ---- */

struct loads *loads_new(struct world *world, const struct lexicon *lx, uint32_t seed,
                        struct loads_ends ends)
{
    struct loads *l = g_new0(struct loads, 1);
    *l = (struct loads){.world = world, .lx = lx, .ends = ends, .seed = seed ? seed : 1};
    l->loads = g_new0(struct load, lx->outputs->len + 1);
    l->sensors = g_new0(struct sensor, lx->inputs->len + 1);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        struct load *load = &l->loads[i];
        *load = (struct load){.out = lx->outputs->pdata[i], .all = l};
        if (load_kinds[load->out->kind]->begin) load_kinds[load->out->kind]->begin(load);
    }
    for (unsigned i = 0; i < lx->inputs->len; i++)
        l->sensors[i] = (struct sensor){.in = lx->inputs->pdata[i], .all = l};
    return l;
}

void loads_free(struct loads *l)
{
    if (!l) return;
    g_free(l->loads);
    g_free(l->sensors);
    g_free(l);
}

void loads_begin(struct loads *l)
{
    for (unsigned i = 0; i < l->lx->inputs->len; i++) load_show_sensor(&l->sensors[i], false);
}

/* What can happen to each kind of output; all of it can be mended. */
static const struct {
    const char *what;
    unsigned bit;
} breaks[] = {
    {"weld", LOAD_WELD},
    {"jam", LOAD_JAM},
    {"dead", LOAD_DEAD},
};

static bool break_load(struct load *load, const char *how)
{
    unsigned n = 0;
    bool mend = !strcmp(how, "mend");
    while (n < G_N_ELEMENTS(breaks) && strcmp(breaks[n].what, how) != 0) n++;
    if (!mend &&
        (n == G_N_ELEMENTS(breaks) || !(breaks[n].bit & load_kinds[load->out->kind]->breaks)))
        return false;
    for (unsigned i = 0; i < 2; i++) {
        struct contact *c = &load->contact[i];
        if (*how == 'w') c->welded = c->closed;
        if (mend) c->welded = false, c->closed = c->coil;
        if (mend || *how == 'j') load->shaft[i].jammed = !mend;
        load_wake_shaft(load, i);
    }
    if (mend || *how == 'd') load->dead = !mend;
    if (mend) load_contacts_changed(load);
    return true;
}

bool loads_break(struct loads *l, const char *what)
{
    char **words = g_strsplit(what, " ", 2);
    bool done = false;
    struct sensor *s = words[0] && words[1] ? load_sensor(l, words[1]) : NULL;
    if (s) done = load_break_sensor(s, words[0]);
    for (unsigned i = 0; !s && words[0] && words[1] && i < l->lx->outputs->len; i++)
        if (!strcmp(l->loads[i].out->name, words[1])) done |= break_load(&l->loads[i], words[0]);
    g_strfreev(words);
    return done;
}

bool loads_is_on(const struct loads *l, unsigned output)
{
    const struct load *load = &l->loads[output];
    return load->out->kind == LEX_LED ? load->duty && !load->dead : load->contact[0].closed;
}

unsigned loads_wear(const struct loads *l, unsigned output)
{
    return l->loads[output].contact[0].wear + l->loads[output].contact[1].wear;
}

unsigned loads_looks(const struct loads *l, unsigned output)
{
    return l->loads[output].dead ? 0 : loads_lightness(l->loads[output].duty);
}

int loads_speed(const struct loads *l, unsigned output, unsigned side)
{
    return l->loads[output].shaft[side].speed * 1000 / LOAD_FULL;
}

int loads_place(const struct loads *l, unsigned output)
{
    const struct load *load = &l->loads[output];
    const struct load_kind *kind = load_kinds[load->out->kind];
    return kind->place ? kind->place(load) : 0;
}

unsigned loads_shorts(const struct loads *l)
{
    return l->shorts;
}

unsigned loads_stalls(const struct loads *l)
{
    return l->stalls;
}
