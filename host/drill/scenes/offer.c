/* First the failure is written as reported. Where that is no scene that fails on the one
 * and passes on the other, the conversation is played on both, what each of them does is held
 * against the other, and the scene ends with the first difference that a scene can see or hear.
 * What a scene cannot show (two levels that round to the same percent) is not offered. */
#include "drill/scenes/offer.h"

#include <string.h>

#include "drill/judge/seen.h"
#include "drill/scenes/play.h"

#define APART_US UINT64_C(40000) /* two states that differ for so long are distinguished */

/* Something that one of them did: a line that was heard, or an output's new state. */
struct deed {
    uint64_t us;
    char *who, *what;
    bool heard;
};

struct watched {
    GArray *deeds; /* struct deed */
    GArray *begun; /* uint64_t: when each step began */
    const struct lexicon *lx;
};

static void clear_deed(void *p)
{
    g_free(((struct deed *)p)->who);
    g_free(((struct deed *)p)->what);
}

static void on_sight(void *user, const struct sight *sight)
{
    struct watched *w = user;
    bool heard = sight->kind == SIGHT_ANSWERED || sight->kind == SIGHT_KNOWN;
    if (!sight->board || *sight->board->name) return;
    int output = sight->kind == SIGHT_OUT ? output_of_event(w->lx, sight->event) : -1;
    if (!heard && output < 0) return;
    const struct lex_output *out = output < 0 ? NULL : w->lx->outputs->pdata[output];
    struct deed deed = {.us = sight->board->bench->world->now_us,
                        .who = g_strdup(out ? out->name : sight->name),
                        .what = out ? output_state(sight->board, out)
                                    : g_strndup(sight->text, sight->count),
                        .heard = heard};
    g_array_append_val(w->deeds, deed);
}

static void on_step(void *user, unsigned number, uint64_t us)
{
    struct watched *w = user;
    (void)number;
    g_array_append_val(w->begun, us);
}

static struct watched watched_new(const struct lexicon *lx)
{
    struct watched w = {g_array_new(FALSE, FALSE, sizeof(struct deed)),
                        g_array_new(FALSE, FALSE, sizeof(uint64_t)), lx};
    g_array_set_clear_func(w.deeds, clear_deed);
    return w;
}

static void watched_free(struct watched *w)
{
    g_array_free(w->deeds, TRUE);
    g_array_free(w->begun, TRUE);
}

/* Whether the statements pass; `watched` may be NULL. */
static bool passes(const struct setup *setup, const char *firmware, const char *text,
                   struct watched *watched)
{
    struct scene_file *file = scene_file_of(setup->lx, setup->image, setup->world, text);
    bool sound = !lexicon_has(file->read, false), passed = false;
    struct play_options options = {.firmware = firmware,
                                   .watcher = watched ? on_sight : NULL,
                                   .watcher_user = watched,
                                   .stepped = watched ? on_step : NULL};
    file->seed = setup->seed;
    if (sound) {
        struct play_result *r = play_scene(file, file->scenes->pdata[0], &options);
        passed = r->passed;
        play_result_free(r);
    }
    scene_file_free(file);
    return sound && passed;
}

/* Without the head, whose files have no name yet. */
static const char *statements(const char *scene)
{
    return strstr(scene, "\n\n") + 2;
}

/* Whether it fails on what failed, and on nothing else. */
static bool holds(const struct setup *setup, const char *scene)
{
    const char *text = statements(scene);
    if (!setup->firmware) return !passes(setup, NULL, text, NULL);
    return passes(setup, NULL, text, NULL) && !passes(setup, setup->firmware, text, NULL);
}

/* ---- the first difference ---- */

/* The state of an output at a time; NULL: it was not driven yet. */
static const char *state_at(const struct watched *w, const char *who, uint64_t us)
{
    const char *state = NULL;
    for (unsigned i = 0; i < w->deeds->len; i++) {
        const struct deed *d = &g_array_index(w->deeds, struct deed, i);
        if (d->us > us) break;
        if (!d->heard && !strcmp(d->who, who)) state = d->what;
    }
    return state;
}

/* The next change of the output in either, after `us`. */
static uint64_t next_change(const struct watched *a, const struct watched *b, const char *who,
                            uint64_t us)
{
    const struct watched *of[] = {a, b};
    uint64_t next = UINT64_MAX;
    for (unsigned k = 0; k < 2; k++)
        for (unsigned i = 0; i < of[k]->deeds->len; i++) {
            const struct deed *d = &g_array_index(of[k]->deeds, struct deed, i);
            if (!d->heard && d->us > us && !strcmp(d->who, who)) next = MIN(next, d->us);
        }
    return next;
}

/* When an output's states differ for long, in the middle of that; UINT64_MAX: never. */
static uint64_t differ_at(const struct watched *tables, const struct watched *firmware,
                          const char *who, uint64_t end_us)
{
    for (uint64_t us = PLAY_START_US; us < end_us;) {
        const char *a = state_at(tables, who, us), *b = state_at(firmware, who, us);
        uint64_t next = MIN(next_change(tables, firmware, who, us), end_us);
        if (g_strcmp0(a, b) != 0 && a && next - us >= APART_US)
            return us + MIN(next - us, 200000) / 2;
        us = next;
    }
    return UINT64_MAX;
}

/* The number-th line of somebody from the start of the scene on; NULL: there are less. */
static const struct deed *line_of(const struct watched *w, const char *who, unsigned number)
{
    for (unsigned i = 0; i < w->deeds->len; i++) {
        const struct deed *d = &g_array_index(w->deeds, struct deed, i);
        if (d->heard && d->us >= PLAY_START_US && !strcmp(d->who, who) && !number--) return d;
    }
    return NULL;
}

/* ---- scenes that end with it ---- */

/* The steps that began before this time, the last of them cut to it where it waits. */
static GString *up_to(char *const *steps, const struct watched *w, uint64_t us, bool cut)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; steps[i] && *steps[i]; i++) {
        uint64_t began = i && i - 1 < w->begun->len ? g_array_index(w->begun, uint64_t, i - 1) : 0;
        bool over = i >= w->begun->len || g_array_index(w->begun, uint64_t, i) > us;
        if (i && began > us) break;
        bool waits = g_str_has_prefix(steps[i], "wait") || g_str_has_prefix(steps[i], "hear");
        if (i && over && waits && cut) {
            if (us - began >= 1000)
                g_string_append_printf(text, "wait %" G_GUINT64_FORMAT "ms\n", (us - began) / 1000);
            break;
        }
        if (i && over && waits) break;
        g_string_append_printf(text, "%s\n", steps[i]);
    }
    return text;
}

static char *with_head(const char *head, GString *text)
{
    char *scene = g_strconcat(head, text->str, NULL);
    g_string_free(text, TRUE);
    return scene;
}

static char *first_state(const struct setup *setup, char *const *steps, const char *head,
                         const struct watched *tables, const struct watched *firmware,
                         uint64_t end_us)
{
    uint64_t first = UINT64_MAX;
    const char *who = NULL;
    for (unsigned i = 0; i < setup->lx->outputs->len; i++) {
        const struct lex_output *out = setup->lx->outputs->pdata[i];
        uint64_t us = differ_at(tables, firmware, out->name, end_us);
        if (us >= first) continue;
        first = us;
        who = out->name;
    }
    if (!who) return NULL;
    GString *text = up_to(steps, tables, first, true);
    g_string_append_printf(text, "see %s %s within 1ms\n", who, state_at(tables, who, first));
    return with_head(head, text);
}

/* Whether it is the answer of a handler, which is free to answer. */
static bool tells_handler(const struct lexicon *lx, const char *text)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *first = command->elements->pdata[0];
        if (!command->query && command->effect.kind != LEX_CALL) continue;
        char *told = g_strdup_printf("ok %s", first->kind == LEX_WORD ? first->text : "");
        char *own = command->says ? g_strndup(command->says, strcspn(command->says, "{")) : NULL;
        bool tells = strstr(text, told) || (own && strstr(text, own));
        g_free(told);
        g_free(own);
        if (tells) return true;
    }
    return false;
}

static char *first_line(const struct setup *setup, char *const *steps, const char *head,
                        const struct watched *tables, const struct watched *firmware)
{
    const struct deed *expected = NULL;
    uint64_t first = UINT64_MAX;
    char *of = NULL;
    for (unsigned i = 0; i < setup->lx->links->len; i++) {
        const struct lex_link *link = setup->lx->links->pdata[i];
        char *who = g_strconcat(session_has_client(link) ? "by_" : "", link->name, NULL);
        for (unsigned k = 0;; k++) {
            const struct deed *a = line_of(tables, who, k), *b = line_of(firmware, who, k);
            if (!a && !b) break;
            if (a && b && (!strcmp(a->what, b->what) || tells_handler(setup->lx, a->what)))
                continue;
            uint64_t us = a ? a->us : b->us;
            if (us >= first) break;
            first = us;
            expected = a;
            g_free(of);
            of = g_strdup(who);
            break;
        }
        g_free(who);
    }
    if (!of) return NULL;
    GString *text = up_to(steps, tables, first, false);
    g_string_append_printf(text, expected ? "hear %s " : "silence %s 1s\n", of);
    if (expected) {
        shrink_put_text(text, expected->what);
        g_string_append(text, "\n");
    }
    g_free(of);
    return with_head(head, text);
}

/* One of them that holds; NULL: none does. Frees all. */
static char *best_of(const struct setup *setup, char *scenes[], unsigned n)
{
    char *best = NULL;
    for (unsigned i = 0; i < n; i++) {
        if (scenes[i] && !best && holds(setup, scenes[i]))
            best = scenes[i];
        else
            g_free(scenes[i]);
    }
    return best;
}

/* The scene with this much time behind it, up to the first difference. */
static char *offer_difference(const struct setup *setup, const char *conversation, unsigned tail_ms)
{
    char *scene = g_strdup_printf("%swait %ums\n", conversation, tail_ms), *best = NULL;
    struct watched tables = watched_new(setup->lx), firmware = watched_new(setup->lx);
    bool tables_pass = passes(setup, NULL, statements(scene), &tables);
    bool firmware_passes = passes(setup, setup->firmware, statements(scene), &firmware);
    if (tables_pass && !firmware_passes) {
        best = scene;
        scene = NULL;
    } else if (tables_pass) {
        char *head = g_strndup(scene, (gsize)(statements(scene) - scene));
        char **steps = g_strsplit(statements(scene), "\n", -1);
        uint64_t end_us =
            g_array_index(tables.begun, uint64_t, tables.begun->len - 1) + tail_ms * UINT64_C(1000);
        char *scenes[] = {first_state(setup, steps, head, &tables, &firmware, end_us),
                          first_line(setup, steps, head, &tables, &firmware)};
        best = best_of(setup, scenes, G_N_ELEMENTS(scenes));
        g_strfreev(steps);
        g_free(head);
    }
    watched_free(&tables);
    watched_free(&firmware);
    g_free(scene);
    return best;
}

static char *offer_differences(const struct setup *setup, const char *conversation)
{
    static const unsigned tails_ms[] = {1000, 15000, 130000};
    char *scene = NULL;
    for (unsigned i = 0; setup->firmware && !scene && i < G_N_ELEMENTS(tails_ms); i++)
        scene = offer_difference(setup, conversation, tails_ms[i]);
    return scene;
}

char *offer_scene(const struct setup *setup, const GArray *moves, const struct failing *failing,
                  const char *title)
{
    char *scene = shrink_scene(setup, moves, failing, title);
    bool told = failing->heard && tells_handler(setup->lx, failing->heard);
    if (!told && holds(setup, scene)) return scene;
    g_free(scene);
    if (failing->died) return NULL;
    char *conversation = shrink_conversation(setup, moves, title);
    scene = offer_differences(setup, conversation);
    g_free(conversation);
    return scene;
}

char *offer_played(const struct setup *setup, const char *scene)
{
    if (holds(setup, scene)) return g_strdup(scene);
    return offer_differences(setup, scene);
}
