/* Shows a bench to pages: a snapshot for whoever opens one, then what changes.
 * What changed goes at most 60 times a second; texts go when they come.
 * It draws nothing, and knows no kind of output. */
#include "web/web_bench.h"

#include <jansson.h>
#include <string.h>

#include "web/web_session.h"
#include "world/boards/board_states.h"
#include "world/boards/trace.h"

#define PROTOCOL   1
#define EVERY_MS   16u
#define KEPT       300u /* texts, for a page that is opened later */
#define SPEED_MOST 1000.0

struct web_bench {
    struct web_channel *channel;
    struct talk *talk;
    struct bench *bench;
    struct live *live;
    bool *mistyped;
    char *scene; /* the head of one */
    struct states *states;
    struct web_session *session; /* NULL: it is not kept */
    GQueue *texts;               /* char *: JSON */
    guint timer;
};

static json_t *seconds(const struct web_bench *w)
{
    return json_real((double)w->bench->world->now_us / 1e6);
}

/* Takes the JSON over. Owned by the caller. */
static char *text_of(json_t *json)
{
    char *text = json_dumps(json, JSON_COMPACT | JSON_REAL_PRECISION(12));
    json_decref(json);
    return text;
}

static void send_all(const struct web_bench *w, json_t *json)
{
    char *text = text_of(json);
    web_send_all(w->channel, text);
    free(text);
}

/* ---- what is there ---- */

static json_t *lines_json(const struct web_bench *w)
{
    json_t *all = json_array();
    GPtrArray *lines = talk_tool_lines(w->talk);
    for (unsigned i = 0; i < lines->len; i++)
        json_array_append_new(all, json_string(lines->pdata[i]));
    g_ptr_array_free(lines, TRUE);
    return all;
}

static json_t *snapshot(const struct web_bench *w)
{
    json_t *texts = json_array(), *all = states_parts(w->bench);
    for (const GList *t = w->texts->head; t; t = t->next)
        json_array_append_new(texts, json_loads(t->data, 0, NULL));
    const struct board *first = w->bench->boards->pdata[0];
    json_object_update_new(
        all, json_pack("{s:s, s:i, s:s, s:o, s:f, s:o, s:o, s:o, s:s, s:I}", "is", "bench",
                       "protocol", PROTOCOL, "lexicon", first->lx->name, "t", seconds(w), "speed",
                       w->live ? live_speed(w->live) : 1.0, "tool", lines_json(w), "texts", texts,
                       "states", states_now(w->states, true), "scene", w->scene, "seed",
                       (json_int_t)w->bench->options->seed));
    return all;
}

/* ---- what happens ---- */

static void on_sight(void *user, const struct sight *sight)
{
    struct web_bench *w = user;
    const char *what = trace_word(sight);
    if (!what || sight->kind == SIGHT_WIRE) return;
    char *text = text_of(json_pack("{s:s, s:o, s:s, s:s, s:o, s:s?}", "is", "text", "t", seconds(w),
                                   "what", what, "who", sight->name ? sight->name : "", "text",
                                   states_text(sight->text ? sight->text : "", sight->count),
                                   "number", sight->number));
    web_send_all(w->channel, text);
    g_queue_push_tail(w->texts, g_strdup(text));
    if (g_queue_get_length(w->texts) > KEPT) g_free(g_queue_pop_head(w->texts));
    free(text);
}

static void send_changes(const struct web_bench *w)
{
    json_t *changed = states_now(w->states, false);
    if (!json_object_size(changed)) {
        json_decref(changed);
        return;
    }
    send_all(w, json_pack("{s:s, s:o, s:o}", "is", "states", "t", seconds(w), "states", changed));
}

/* While somebody looks: the clock goes on, so that what moves is seen on its way. */
static gboolean on_timer(gpointer user)
{
    struct web_bench *w = user;
    if (!web_channel_count(w->channel)) {
        w->timer = 0;
        return G_SOURCE_REMOVE;
    }
    if (w->live) live_now(w->live);
    web_session_look(w->session);
    send_changes(w);
    return G_SOURCE_CONTINUE;
}

void web_bench_after(struct web_bench *w)
{
    if (w) web_session_look(w->session);
    if (w && web_channel_count(w->channel) && !w->timer)
        w->timer = g_timeout_add(EVERY_MS, on_timer, w);
}

/* ---- what somebody does ---- */

static void send_wrong(struct web_client *client, const char *what, const char *why)
{
    char *text = text_of(json_pack("{s:s, s:o, s:s}", "is", "wrong", "what",
                                   states_text(what, strlen(what)), "why", why));
    web_send(client, text);
    free(text);
}

/* {"do": "say", "over": "skiff", "text": "pump on"}: as a sender of that link says it; "from": the
 * number of a text message; "bare": true: without address, tag and check around it. */
static const char *do_say(const struct web_bench *w, const json_t *asked)
{
    const char *over = NULL, *text = NULL, *from = NULL;
    int bare = 0;
    if (json_unpack((json_t *)asked, "{s:s, s:s, s?s, s?b}", "over", &over, "text", &text, "from",
                    &from, "bare", &bare) != 0)
        return "expected \"over\" and \"text\"";
    struct speaker *speaker = bench_speaker(w->bench, over);
    struct end *end = bench_end(w->bench, over);
    if (speaker) return speaker_say(speaker, text) ? NULL : "it is too long, or too much waits";
    if (!end) return "there is no such link";
    if (from && !bench_is_number(from)) return "the sender's number is none";
    if (from && end->of->medium == LEX_SMS) bench_write_as(end, from);
    if (end->of->frame == LEX_FRAME_KEYS && !(end->of->lead && *text == end->of->lead)) {
        bench_was_typed(end, text, strlen(text));
        bench_type(end, text, strlen(text));
        return NULL;
    }
    bool said = bare ? bench_say(end, text, strlen(text)) : bench_say_around(end, text);
    return said ? NULL : "it is too long, or too much waits";
}

/* {"do": "tool", "line": "jam gate"}: what stands behind "! " in rlx talk. */
static const char *do_tool(const struct web_bench *w, const json_t *asked)
{
    const char *line = NULL;
    if (json_unpack((json_t *)asked, "{s:s}", "line", &line) != 0) return "expected \"line\"";
    bool before = *w->mistyped;
    *w->mistyped = false;
    char *whole = g_strconcat("! ", line, NULL);
    talk_line(w->talk, whole, strlen(whole));
    g_free(whole);
    bool wrong = *w->mistyped;
    *w->mistyped = before; /* the page reports it, not the exit code */
    return wrong ? "it means nothing here" : NULL;
}

/* {"do": "pace", "speed": 0}: it stands; "step": true: what happens next happens. */
static const char *do_pace(const struct web_bench *w, const json_t *asked)
{
    double speed = 0;
    int step = 0;
    if (json_unpack((json_t *)asked, "{s?F, s?b}", "speed", &speed, "step", &step) != 0)
        return "expected \"speed\"";
    if (!(speed >= 0 && speed <= SPEED_MOST)) return "0 to 1000 are possible";
    live_pace(w->live, speed);
    if (step && !live_step(w->live)) return "nothing will happen by itself";
    send_all(w, json_pack("{s:s, s:o, s:f}", "is", "pace", "t", seconds(w), "speed",
                          live_speed(w->live)));
    return NULL;
}

static void came(void *user, struct web_client *client, const char *text, gsize count)
{
    static const struct {
        const char *word;
        const char *(*run)(const struct web_bench *w, const json_t *asked);
    } known[] = {{"say", do_say}, {"tool", do_tool}, {"pace", do_pace}};
    struct web_bench *w = user;
    json_t *asked = json_loadb(text, count, JSON_REJECT_DUPLICATES, NULL);
    const char *word = asked ? json_string_value(json_object_get(asked, "do")) : NULL;
    const char *wrong = "expected an object with \"do\": say, tool or pace";
    if (w->live) live_now(w->live);
    for (unsigned i = 0; w->live && word && i < G_N_ELEMENTS(known); i++)
        if (!strcmp(known[i].word, word)) wrong = known[i].run(w, asked);
    if (wrong) {
        char *shown = g_strndup(text, MIN(count, 120));
        send_wrong(client, shown, wrong);
        g_free(shown);
    }
    json_decref(asked);
    if (w->live) live_now(w->live);
    send_changes(w);
}

static void opened(void *user, struct web_client *client)
{
    struct web_bench *w = user;
    if (w->live) live_now(w->live);
    send_changes(w); /* to those who are there already */
    char *text = text_of(snapshot(w));
    web_send(client, text);
    free(text);
    if (!w->timer) w->timer = g_timeout_add(EVERY_MS, on_timer, w);
}

/* ---- begin and end ---- */

struct web_bench *web_bench_new(struct web *web, const char *path, struct talk *talk,
                                const char *scene, bool *mistyped)
{
    struct web_bench *w = g_new0(struct web_bench, 1);
    *w = (struct web_bench){.talk = talk,
                            .scene = g_strdup(scene),
                            .bench = talk_bench(talk),
                            .mistyped = mistyped,
                            .states = states_new(talk_bench(talk)),
                            .texts = g_queue_new()};
    w->channel = web_channel(web, path, (struct web_channel_calls){w, 0, opened, came});
    bench_watch(w->bench, on_sight, w);
    w->session = web_session_new(web, w->bench);
    return w;
}

void web_bench_live(struct web_bench *w, struct live *live)
{
    if (w) w->live = live;
}

void web_bench_free(struct web_bench *w)
{
    if (!w) return;
    if (w->timer) g_source_remove(w->timer);
    g_queue_free_full(w->texts, g_free);
    states_free(w->states);
    web_session_free(w->session);
    g_free(w->scene);
    g_free(w);
}
