/* Handsets: buttons held and released, sliders, lamps.
 * Each sends the texts that the lexicon gives it, in its link's envelope.
 * Whether the device obeys is not its business. */
#include "world/boards/bench_parts.h"
#include "lexicon/envelope.h"
#include "rlx/link.h"

#include <string.h>

/* A button of a handset, and whether somebody presses it. */
struct press {
    struct end *end;
    const struct lex_handset *handset;
    const struct lex_button *button;
    bool down;
    uint32_t version; /* of the repeats that are on their way */
};

static void on_repeat(void *data, uint32_t version);

bool bench_say_around(struct end *end, const char *text)
{
    bool bare = bench_speaker_to(end->board->bench, end) || !envelope_wanted(end->of);
    char *frame =
        bare ? g_strdup(text) : envelope_around(end->of, end->tags++ & (RLX_TAG_OPENS - 1u), text);
    bool said = bench_say(end, frame, strlen(frame));
    g_free(frame);
    return said;
}

/* Whether another button, which is something else beside this one, is held down meanwhile. */
static bool is_beside(const struct press *p)
{
    const GPtrArray *all = p->end->board->bench->presses;
    bool found = false;
    for (unsigned i = 0; i < all->len && !found; i++) {
        const struct press *other = all->pdata[i];
        found = other->down && other->handset == p->handset && other->button->with &&
                !strcmp(other->button->with, p->button->name);
    }
    return found;
}

static void repeat_later(struct press *p)
{
    struct world *world = p->end->board->bench->world;
    world_at(world, world->now_us + p->handset->repeat * UINT64_C(1000), on_repeat, p, p->version);
}

static void on_repeat(void *data, uint32_t version)
{
    struct press *p = data;
    if (!p->down || version != p->version) return;
    if (!is_beside(p)) bench_say_around(p->end, p->button->held);
    repeat_later(p);
}

static void tell_use(struct end *end, const struct lex_handset *handset, const char *name,
                     const char *how)
{
    char *text = g_strdup_printf("%s %s", name, how);
    bench_tell_about(end->board, NULL, SIGHT_HANDSET, handset->name, text);
    g_free(text);
}

/* ---- buttons ---- */

static bool is_down(const struct bench *bench, const struct lex_handset *handset, const char *name)
{
    for (unsigned i = 0; i < bench->presses->len; i++) {
        const struct press *p = bench->presses->pdata[i];
        if (p->handset == handset && !strcmp(p->button->name, name)) return p->down;
    }
    return false;
}

static bool is_any_down(const struct bench *bench, const struct lex_handset *handset)
{
    bool any = false;
    for (unsigned i = 0; i < bench->presses->len; i++) {
        const struct press *p = bench->presses->pdata[i];
        any |= p->handset == handset && p->down;
    }
    return any;
}

/* Two held together may be a button of their own: it comes before the plain one. */
static struct press *press_of(struct bench *bench, const char *name, bool down)
{
    struct press *plain = NULL;
    for (unsigned i = 0; i < bench->presses->len; i++) {
        struct press *p = bench->presses->pdata[i];
        if (strcmp(p->button->name, name) != 0) continue;
        if (!down && p->down) return p;
        if (p->button->with && is_down(bench, p->handset, p->button->with)) return p;
        if (!p->button->with) plain = p;
    }
    return plain;
}

bool bench_press(struct bench *bench, const char *name, bool down)
{
    struct press *p = press_of(bench, name, down);
    if (!p) return false;
    if (p->down == down) return true;
    p->down = down;
    p->version++;
    tell_use(p->end, p->handset, name, down ? "pressed" : "released");
    const char *says = down ? p->button->press : p->button->release;
    if (says) bench_say_around(p->end, says);
    if (!down && p->handset->idle && !is_any_down(bench, p->handset))
        bench_say_around(p->end, p->handset->idle);
    if (down && p->button->held && p->handset->repeat) repeat_later(p);
    return true;
}

/* The text of a slider with this value; NULL: it has none. Owned by the caller. */
static char *slid(const struct lex_slider *slider, const char *value)
{
    const char *open = slider->text ? strchr(slider->text, '{') : NULL;
    const char *close = open ? strchr(open, '}') : NULL;
    if (!close) return NULL;
    return g_strdup_printf("%.*s%s%s", (int)(open - slider->text), slider->text, value, close + 1);
}

static struct end *end_of_handset(const struct board *board, const struct lex_handset *handset)
{
    for (unsigned i = 0; i < board->ends->len; i++) {
        struct end *end = board->ends->pdata[i];
        if (!g_strcmp0(end->of->name, handset->link)) return end;
    }
    return NULL;
}

static bool slide_on(const struct board *board, const char *name, const char *value)
{
    for (unsigned i = 0; i < board->lx->handsets->len; i++) {
        const struct lex_handset *handset = board->lx->handsets->pdata[i];
        struct end *end = end_of_handset(board, handset);
        for (unsigned k = 0; end && k < handset->sliders->len; k++) {
            const struct lex_slider *slider = handset->sliders->pdata[k];
            char *text = strcmp(slider->name, name) ? NULL : slid(slider, value);
            if (!text) continue;
            tell_use(end, handset, name, value);
            bench_say_around(end, text);
            g_free(text);
            return true;
        }
    }
    return false;
}

bool bench_slide(struct bench *bench, const char *name, const char *value)
{
    for (unsigned i = 0; i < bench->boards->len; i++)
        if (slide_on(bench->boards->pdata[i], name, value)) return true;
    return false;
}

/* ---- lamps ---- */

static void light(struct end *end, const struct lex_handset *handset, const char *event,
                  const char *word)
{
    for (unsigned k = 0; k < handset->lamps->len; k++) {
        const struct lex_lamp *lamp = handset->lamps->pdata[k];
        bool lit = !lamp->word || !g_strcmp0(lamp->word, word);
        if (strncmp(event, lamp->event, strlen(lamp->event)) != 0) continue;
        char *text = g_strdup_printf("lamp %s %s", lamp->name, lit ? "on" : "off");
        bench_tell_about(end->board, NULL, SIGHT_LAMP, handset->name, text);
        g_free(text);
    }
}

/* An event that came over a link lights the lamps that are for it, and puts out those for its other
 * words. */
void bench_lamps(struct end *end, const char *text, size_t count)
{
    const struct lexicon *lx = end->board->lx;
    char *line = g_strndup(text, count), *at = strstr(line, "ev ");
    char **words = at ? g_strsplit(at, " ", 4) : NULL;
    unsigned first = words && words[1] && *words[1] == '#' ? 2 : 1; /* behind its number */
    const char *event = words && g_strv_length(words) > first ? words[first] : NULL;
    char *word = event && words[first + 1]
                     ? g_strndup(words[first + 1], strcspn(words[first + 1], "*"))
                     : NULL;
    for (unsigned i = 0; event && i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        if (!g_strcmp0(handset->link, end->of->name)) light(end, handset, event, word);
    }
    g_free(word);
    g_strfreev(words);
    g_free(line);
}

static void add_buttons(struct bench *bench, const struct board *board)
{
    for (unsigned i = 0; i < board->lx->handsets->len; i++) {
        const struct lex_handset *handset = board->lx->handsets->pdata[i];
        struct end *end = end_of_handset(board, handset);
        for (unsigned k = 0; end && k < handset->buttons->len; k++) {
            struct press *p = g_new0(struct press, 1);
            *p = (struct press){
                .end = end, .handset = handset, .button = handset->buttons->pdata[k]};
            g_ptr_array_add(bench->presses, p);
        }
    }
}

void bench_begin_handsets(struct bench *bench)
{
    for (unsigned i = 0; i < bench->boards->len; i++) add_buttons(bench, bench->boards->pdata[i]);
}
