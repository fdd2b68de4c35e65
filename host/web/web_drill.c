/* Starts drills for pages, adds up what they report, and plays scenes of them.
 * Cells and failures are kept, so that a page that comes later sees all; the scenes stay here, and
 * pages name them.
 * It judges nothing: `rlx drill` does. */
#include "web/web_drill.h"

#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "files/files.h"
#include "web/web_tool.h"

#define PLAYS_MOST 4u   /* at a time */
#define PLAYS_KEPT 200u /* their files */

struct web_drill {
    struct web *web;
    struct web_channel *channel;
    char *lexicon, *firmware;
    char *shown; /* the firmware as it was called */
    char **suites;
    GPtrArray *links;  /* char * */
    struct tool *tool; /* the drill that runs; NULL: none does */
    json_t *cells;     /* by what they are, in their order */
    json_t *failures;
    json_t *report; /* NULL: the drill is not over */
    char *wrong;    /* why it ended without one */
    unsigned done, of, failed;
    GPtrArray *plays; /* struct play *, that run */
    unsigned played;
};

struct play {
    struct web_drill *drill;
    unsigned number;
    char *asked; /* what the page called it */
    char *trace, *picture;
    json_t *result;
    struct tool *tool;
};

static void send(struct web_drill *d, struct web_client *client, json_t *json)
{
    char *text = json_dumps(json, JSON_COMPACT | JSON_REAL_PRECISION(9));
    json_decref(json);
    if (client)
        web_send(client, text);
    else
        web_send_all(d->channel, text);
    free(text);
}

/* ---- a drill ---- */

static const char *text_of(const json_t *object, const char *name)
{
    const char *text = json_string_value(json_object_get(object, name));
    return text ? text : "";
}

/* What is the same in both is one cell. Owned by the caller. */
static char *key_of(const json_t *cell)
{
    return g_strjoin("\n", text_of(cell, "command"), text_of(cell, "link"), text_of(cell, "fault"),
                     text_of(cell, "strength"), NULL);
}

static void add_cell(struct web_drill *d, json_t *cell)
{
    static const char *const counts[] = {"cases", "passed", "lost", "wrong"};
    char *key = key_of(cell);
    json_t *known = json_object_get(d->cells, key);
    if (!known) json_object_set(d->cells, key, cell);
    for (unsigned i = 0; known && i < G_N_ELEMENTS(counts); i++) {
        json_int_t sum = json_integer_value(json_object_get(known, counts[i])) +
                         json_integer_value(json_object_get(cell, counts[i]));
        json_object_set_new(known, counts[i], json_integer(sum));
    }
    g_free(key);
}

/* Without the scenes, which stay here; whether there is one is in it. */
static json_t *for_pages(const json_t *all)
{
    json_t *shown = json_array();
    for (size_t i = 0; i < json_array_size(all); i++) {
        json_t *one = json_copy(json_array_get(all, i));
        if (json_object_get(one, "scene")) json_object_set_new(one, "plays", json_true());
        json_object_del(one, "scene");
        json_object_del(one, "world");
        json_array_append_new(shown, one);
    }
    return shown;
}

static json_t *cells_of(const struct web_drill *d)
{
    json_t *all = json_array(), *value;
    const char *key;
    json_object_foreach(d->cells, key, value) json_array_append(all, value);
    json_t *shown = for_pages(all);
    json_decref(all);
    return shown;
}

/* All of it, for a page that begins to look. */
static json_t *state_of(const struct web_drill *d)
{
    json_t *links = json_array(), *suites = json_array();
    for (unsigned i = 0; i < d->links->len; i++)
        json_array_append_new(links, json_string(d->links->pdata[i]));
    for (char *const *s = d->suites; *s; s++) json_array_append_new(suites, json_string(*s));
    return json_pack("{s:s, s:b, s:b, s:i, s:i, s:i, s:o, s:o, s:o, s:o, s:s?, s:s?}", "is",
                     "drill", "runs", (int)(d->tool != NULL), "over", (int)(d->report != NULL),
                     "done", (int)d->done, "of", (int)d->of, "failed", (int)d->failed, "cells",
                     cells_of(d), "failures", for_pages(d->failures), "links", links, "suites",
                     suites, "firmware", d->shown, "wrong", d->wrong);
}

static void on_line(void *user, const char *text)
{
    struct web_drill *d = user;
    json_t *line = json_loads(text, 0, NULL);
    const char *is = text_of(line, "is");
    if (!strcmp(is, "report")) {
        d->report = json_incref(json_object_get(line, "report"));
        json_decref(d->failures);
        d->failures = json_incref(json_object_get(d->report, "failures"));
        d->failed = (unsigned)json_integer_value(json_object_get(d->report, "failed"));
    } else if (!strcmp(is, "part")) {
        json_t *cells = json_object_get(line, "cells"),
               *failures = json_object_get(line, "failures");
        for (size_t i = 0; i < json_array_size(cells); i++) add_cell(d, json_array_get(cells, i));
        json_array_extend(d->failures, failures);
        d->done = (unsigned)json_integer_value(json_object_get(line, "done"));
        d->of = (unsigned)json_integer_value(json_object_get(line, "of"));
        d->failed = (unsigned)json_integer_value(json_object_get(line, "failed"));
        send(d, NULL,
             json_pack("{s:s, s:i, s:i, s:i, s:o, s:o}", "is", "part", "done", (int)d->done, "of",
                       (int)d->of, "failed", (int)d->failed, "cells", for_pages(cells), "failures",
                       for_pages(failures)));
    }
    json_decref(line);
}

static void on_over(void *user, int code, const char *wrong)
{
    struct web_drill *d = user;
    d->tool = NULL;
    if (!d->report) d->wrong = g_strdup(code < 0 && !*wrong ? "the drill was ended" : wrong);
    send(d, NULL, state_of(d));
}

static void forget(struct web_drill *d)
{
    json_decref(d->cells);
    json_decref(d->failures);
    if (d->report) json_decref(d->report);
    d->cells = json_object();
    d->failures = json_array();
    d->report = NULL;
    g_clear_pointer(&d->wrong, g_free);
    d->done = d->of = d->failed = 0;
}

static bool has(char *const *all, const char *name)
{
    return g_strv_contains((const char *const *)all, name);
}

/* {"do": "drill", "link": "bench", "suite": "words", "seed": 7}: all but the first may be left out.
 */
static const char *do_drill(struct web_drill *d, const json_t *asked)
{
    const char *link = NULL, *suite = NULL;
    json_int_t seed = 1;
    char number[24];
    const char *all[16] = {"drill", "--stream", "--seed", number};
    unsigned n = 4;
    if (json_unpack((json_t *)asked, "{s?s, s?s, s?I}", "link", &link, "suite", &suite, "seed",
                    &seed) != 0)
        return "expected \"link\", \"suite\" and \"seed\", or none of them";
    if (d->tool) return "a drill runs already";
    if (seed < 1 || seed > INT32_MAX) return "the seed is 1 to 2147483647";
    if (link && !g_ptr_array_find_with_equal_func(d->links, link, g_str_equal, NULL))
        return "there is no such link";
    if (suite && !has(d->suites, suite)) return "there is no such suite";
    g_snprintf(number, sizeof number, "%" JSON_INTEGER_FORMAT, seed);
    if (link) all[n++] = "--link", all[n++] = link;
    if (suite) all[n++] = "--suite", all[n++] = suite;
    if (d->firmware) all[n++] = "--firmware", all[n++] = d->firmware;
    all[n] = d->lexicon;
    forget(d);
    d->tool = tool_run(all, on_line, on_over, d);
    send(d, NULL, state_of(d));
    return NULL;
}

static const char *do_stop(struct web_drill *d, const json_t *asked)
{
    (void)asked;
    if (!d->tool) return "no drill runs";
    tool_stop(d->tool);
    return NULL;
}

/* ---- scenes ---- */

static void play_free(struct play *p)
{
    g_free(p->asked), g_free(p->trace), g_free(p->picture);
    if (p->result) json_decref(p->result);
    g_free(p);
}

static void play_over(struct play *p, bool drawn, const char *wrong)
{
    struct web_drill *d = p->drill;
    bool passed = json_is_true(json_object_get(p->result, "passed"));
    json_t *all = json_pack("{s:s, s:s, s:b, s:s*}", "is", "played", "asked", p->asked, "passed",
                            (int)passed, "wrong", wrong);
    if (p->result) json_object_set_new(all, "number", json_integer(p->number));
    json_object_set_new(all, "picture", json_boolean(drawn));
    send(d, NULL, all);
    g_ptr_array_remove(d->plays, p);
    play_free(p);
}

static void on_drawn(void *user, int code, const char *wrong)
{
    (void)wrong;
    play_over(user, !code, NULL);
}

static void on_result(void *user, const char *text)
{
    struct play *p = user;
    if (!p->result) p->result = json_loads(text, 0, NULL);
}

static void on_played(void *user, int code, const char *wrong)
{
    struct play *p = user;
    const char *const all[] = {"draw", p->trace, "-o", p->picture, "--from", "2.9s", NULL};
    p->tool = NULL;
    if (p->result && (code == 0 || code == 1))
        p->tool = tool_run(all, NULL, on_drawn, p);
    else
        play_over(p, false, *wrong ? wrong : "the scene was ended");
}

/* Behind the head of a scene, which names files: only those of this board are played. NULL: it has
 * none. */
static const char *behind_head(const char *scene)
{
    const char *at = !strncmp(scene, "scene ", 6) ? scene : strstr(scene, "\nscene ");
    return at && *at == '\n' ? at + 1 : at;
}

static void put_name(GString *to, const char *word, const char *path)
{
    if (path) g_string_append_printf(to, "%s \"%s\" ", word, path);
}

/* One at a time is kept in its files; the oldest go. */
static void drop_old(const struct web_drill *d)
{
    static const char *const ends[] = {"scene", "world", "jsonl", "svg"};
    if (d->played <= PLAYS_KEPT) return;
    for (unsigned i = 0; i < G_N_ELEMENTS(ends); i++) {
        char *file =
            g_strdup_printf("%s/%u.%s", web_folder(d->web), d->played - PLAYS_KEPT, ends[i]);
        remove(file);
        g_free(file);
    }
}

static const char *play(struct web_drill *d, const char *asked, const char *scene,
                        const char *world, json_int_t seed)
{
    const char *folder = web_folder(d->web), *body = behind_head(scene);
    if (!body) return "it is no scene: expected a line like: scene \"The pump by cable\"";
    if (!folder) return "there is no place for it";
    if (d->plays->len >= PLAYS_MOST) return "others are being played: try again";
    unsigned number = ++d->played;
    char *file = g_strdup_printf("%s/%u.scene", folder, number);
    char *around = g_strdup_printf("%s/%u.world", folder, number);
    GString *text = g_string_new(NULL);
    put_name(text, "lexicon", d->lexicon);
    put_name(text, "world", world ? around : NULL);
    put_name(text, "firmware", d->firmware);
    g_string_append_printf(text, "loads seed %" JSON_INTEGER_FORMAT "\n\n%s", seed, body);
    bool ok = files_write(file, text->str, text->len, NULL) &&
              (!world || files_write(around, world, strlen(world), NULL));
    if (ok) {
        struct play *p = g_new0(struct play, 1);
        *p = (struct play){.drill = d, .number = number, .asked = g_strdup(asked)};
        p->trace = g_strdup_printf("%s/%u.jsonl", folder, number);
        p->picture = g_strdup_printf("%s/%u.svg", folder, number);
        const char *const all[] = {"play", "--json", "--states", "--trace", p->trace, file, NULL};
        g_ptr_array_add(d->plays, p);
        drop_old(d);
        p->tool = tool_run(all, on_result, on_played, p);
    }
    g_string_free(text, TRUE);
    g_free(file), g_free(around);
    return ok ? NULL : "it could not be written";
}

/* {"do": "play", "asked": "any text", and one of "cell": {"command": ..., "link": ...}, "failure":
 * 3, "scene": "..."}. */
static const char *do_play(struct web_drill *d, const json_t *asked)
{
    const json_t *cell = json_object_get(asked, "cell"),
                 *number = json_object_get(asked, "failure");
    const char *scene = json_string_value(json_object_get(asked, "scene")), *world = NULL;
    json_int_t seed = d->report ? json_integer_value(json_object_get(d->report, "seed")) : 1;
    const json_t *from = NULL;
    if (cell) {
        char *key = key_of(cell);
        from = json_object_get(d->cells, key);
        g_free(key);
    } else if (json_is_integer(number) && json_integer_value(number) >= 0) {
        from = json_array_get(d->failures, (size_t)json_integer_value(number));
    } else if (!scene) {
        return "expected \"cell\", \"failure\" or \"scene\"";
    }
    if (from) scene = json_string_value(json_object_get(from, "scene"));
    if (from) world = json_string_value(json_object_get(from, "world"));
    if (!scene) return "no scene of it is known";
    return play(d, text_of(asked, "asked"), scene, world, seed ? seed : 1);
}

/* ---- pages ---- */

static void came(void *user, struct web_client *client, const char *text, gsize count)
{
    static const struct {
        const char *word;
        const char *(*run)(struct web_drill *d, const json_t *asked);
    } known[] = {{"drill", do_drill}, {"stop", do_stop}, {"play", do_play}};
    struct web_drill *d = user;
    json_t *asked = json_loadb(text, count, JSON_REJECT_DUPLICATES, NULL);
    const char *word = text_of(asked, "do");
    const char *wrong = "expected an object with \"do\": drill, stop or play";
    for (unsigned i = 0; i < G_N_ELEMENTS(known); i++)
        if (!strcmp(known[i].word, word)) wrong = known[i].run(d, asked);
    if (wrong)
        send(d, client,
             json_pack("{s:s, s:s, s:s}", "is", "wrong", "asked", text_of(asked, "asked"), "why",
                       wrong));
    json_decref(asked);
}

static void opened(void *user, struct web_client *client)
{
    struct web_drill *d = user;
    send(d, client, state_of(d));
}

/* /replay/7/trace, /replay/7/picture */
static void make(void *user, struct web_request *request)
{
    struct web_drill *d = user;
    unsigned number;
    char what[16], over;
    const char *path = web_request_path(request), *folder = web_folder(d->web);
    bool known = sscanf(path, "/replay/%9u/%15[a-z]%c", &number, what, &over) == 2;
    bool trace = known && !strcmp(what, "trace"), picture = known && !strcmp(what, "picture");
    char *file = folder && (trace || picture)
                     ? g_strdup_printf("%s/%u.%s", folder, number, trace ? "jsonl" : "svg")
                     : NULL;
    if (file && g_file_test(file, G_FILE_TEST_IS_REGULAR))
        web_give(request, file, trace ? "application/jsonl" : "image/svg+xml", NULL);
    else
        web_refuse(request, 404, "Nothing of that number was played.\n");
    g_free(file);
}

/* ---- begin and end ---- */

struct web_drill *web_drill_new(struct web *web, const struct lexicon *lx, const char *firmware,
                                const char *const *suites)
{
    struct web_drill *d = g_new0(struct web_drill, 1);
    d->web = web;
    d->lexicon = g_canonicalize_filename(lx->file, NULL);
    d->firmware = firmware ? g_canonicalize_filename(firmware, NULL) : NULL;
    d->shown = g_strdup(firmware);
    d->suites = g_strdupv((char **)suites);
    d->links = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < lx->links->len; i++)
        g_ptr_array_add(d->links, g_strdup(((struct lex_link *)lx->links->pdata[i])->name));
    d->plays = g_ptr_array_new();
    d->cells = json_object();
    d->failures = json_array();
    d->channel =
        web_channel(web, "/drilling", (struct web_channel_calls){d, DRILL_MESSAGE, opened, came});
    web_files(web, "/replay", make, d);
    return d;
}

void web_drill_free(struct web_drill *d)
{
    if (!d) return;
    tool_drop(d->tool);
    for (unsigned i = 0; i < d->plays->len; i++) {
        struct play *p = d->plays->pdata[i];
        tool_drop(p->tool);
        play_free(p);
    }
    g_ptr_array_free(d->plays, TRUE);
    g_ptr_array_free(d->links, TRUE);
    g_strfreev(d->suites);
    json_decref(d->cells);
    json_decref(d->failures);
    if (d->report) json_decref(d->report);
    g_free(d->lexicon), g_free(d->firmware), g_free(d->shown), g_free(d->wrong);
    g_free(d);
}
