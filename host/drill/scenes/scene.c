/* Reads a scene: its head, then statements, one a line.
 * The statements' language is the lexicon's: tokens, faults with a caret, the word probably meant.
 * It does nothing of what it reads. */
#include "drill/scenes/scene.h"

#include "files/files.h"

#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"

#define HEAR_MS      5000u   /* default */
#define MESSAGE_MS   300000u /* the same of text messages */
#define SEE_MS       1000u
#define DEEP         4u
#define STEPS_MOST   10000u
#define REPEATS_MOST 1000000u

static void clear_step(void *p)
{
    struct scene_step *step = p;
    g_free(step->who);
    g_free(step->text);
}

static void scene_free(void *p)
{
    struct scene *scene = p;
    g_free(scene->title);
    g_array_free(scene->steps, TRUE);
    g_free(scene);
}

static char *quoted(struct statement *st, const char *what)
{
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_STRING) return g_strdup(token->text);
    lex_fault(st->lx, token->place, "expected %s in quotes", what);
    return NULL;
}

/* ---- the head of the file ---- */

static char *beside(const struct statement *st, const char *path)
{
    char *folder = g_path_get_dirname(st->lx->file);
    char *whole = g_path_is_absolute(path) ? g_strdup(path) : g_build_filename(folder, path, NULL);
    g_free(folder);
    return whole;
}

/* Its first fault is reported; the lexicon has to run. */
static void load_lexicon(struct statement *st, struct lex_place place, const char *path)
{
    struct scene_file *file = st->lx->target;
    GError *error = NULL;
    file->lx = lexicon_read(path, &error);
    if (!file->lx) {
        lex_fault(st->lx, place, "%s", error->message);
        g_clear_error(&error);
        return;
    }
    struct image *image = image_build(file->lx);
    file->image = image;
    lexicon_check(file->lx, image);
    GPtrArray *missing = image_not_run(file->lx);
    if (lexicon_has(file->lx, false) || missing->len || !file->image)
        lex_fault(st->lx, place, "%s has faults: run rlx check", path);
    g_ptr_array_free(missing, TRUE);
}

static void load_world(struct statement *st, struct lex_place place, const char *path)
{
    struct scene_file *file = st->lx->target;
    GError *error = NULL;
    struct world_file *world = world_file_read(path, file->lx, &error);
    if (!world) {
        lex_fault(st->lx, place, "%s", error->message);
        g_clear_error(&error);
        return;
    }
    if (lexicon_has(world->read, false)) {
        const struct lex_fault *fault = world->read->faults->pdata[0];
        lex_fault(st->lx, place, "%s, line %u: %s", path, fault->place.line, fault->text);
    }
    world_file_free(file->world);
    file->world = world;
}

static bool head_world(struct statement *st, void *target)
{
    (void)target;
    struct lex_place place = statement_peek(st)->place;
    char *path = quoted(st, "the world's file");
    if (!path) return false;
    char *whole = beside(st, path);
    load_world(st, place, whole);
    g_free(whole);
    g_free(path);
    return true;
}

static bool head_firmware(struct statement *st, void *target)
{
    struct scene_file *file = target;
    char *path = quoted(st, "the program's file");
    if (!path) return false;
    g_free(file->firmware);
    file->firmware = beside(st, path);
    g_free(path);
    return true;
}

static bool head_loads(struct statement *st, void *target)
{
    (void)st;
    return ((struct scene_file *)target)->loads = true;
}

static bool head_seed(struct statement *st, void *target)
{
    return statement_number(st, "the seed", 1, UINT32_MAX, &((struct scene_file *)target)->seed);
}

static const struct attribute head[] = {{"world", head_world, 0},
                                        {"firmware", head_firmware, 0},
                                        {"loads", head_loads, 0},
                                        {"seed", head_seed, 0},
                                        {NULL, NULL, 0}};

/* lexicon "FILE" [world "FILE"] [firmware "PROGRAM"] [loads] [seed N] */
static void read_lexicon(struct statement *st)
{
    struct scene_file *file = st->lx->target;
    struct lex_place place = statement_peek(st)->place;
    char *path = quoted(st, "the lexicon's file");
    if (!path) return;
    if (file->lx) {
        lex_fault(st->lx, place, "a second lexicon");
        g_free(path);
        return;
    }
    char *whole = beside(st, path);
    load_lexicon(st, place, whole);
    g_free(whole);
    g_free(path);
    if (!file->lx) return;
    file->world = world_file_text("", g_strdup(""), 0, file->lx);
    if (statement_attributes(st, head, 0, statement_any_kind, "scene file", file))
        g_free(statement_title(st));
}

/* ---- scenes ---- */

static void read_scene(struct statement *st)
{
    struct scene_file *file = st->lx->target;
    struct scene *scene = g_new0(struct scene, 1);
    scene->place = statement_peek(st)->place;
    if (!file->lx) lex_fault(st->lx, scene->place, "no lexicon above it: lexicon \"FILE\"");
    scene->title = quoted(st, "the scene's title");
    if (!scene->title) scene->title = g_strdup("");
    scene->steps = g_array_new(FALSE, TRUE, sizeof(struct scene_step));
    g_array_set_clear_func(scene->steps, clear_step);
    for (unsigned i = 0; *scene->title && i < file->scenes->len; i++)
        if (!strcmp(((struct scene *)file->scenes->pdata[i])->title, scene->title))
            lex_fault(st->lx, scene->place, "a second scene \"%s\"", scene->title);
    g_free(statement_title(st));
    g_ptr_array_add(file->scenes, scene);
}

/* The scene that is being read; NULL after a fault. */
static struct scene *scene_of(struct statement *st)
{
    const struct scene_file *file = st->lx->target;
    struct scene *scene = file->scenes->len ? file->scenes->pdata[file->scenes->len - 1] : NULL;
    if (!scene || !file->lx)
        lex_fault(st->lx, statement_peek(st)->place, "no scene above it: scene \"TITLE\"");
    else if (scene->steps->len == STEPS_MOST)
        lex_fault(st->lx, statement_peek(st)->place, "more than %u steps", STEPS_MOST);
    else
        return scene;
    return NULL;
}

static void add(struct scene *scene, struct scene_step step)
{
    g_array_append_val(scene->steps, step);
}

/* What has names: who speaks, outputs, inputs, buttons and sliders. */
enum known { SPEAKERS, OUTPUTS, INPUTS, BUTTONS, SLIDERS };

/* The board's name before it, where it is another one. */
static void add_name(GPtrArray *names, const struct world_device *device, const char *name)
{
    g_ptr_array_add(names, device ? g_strdup_printf("%s.%s", device->name, name) : g_strdup(name));
}

/* What this board has of them. */
static void name_board(GPtrArray *names, enum known kind, const struct world_device *device,
                       const struct lexicon *lx)
{
    for (unsigned i = 0; kind == SPEAKERS && i < lx->links->len; i++)
        add_name(names, device, ((struct lex_link *)lx->links->pdata[i])->name);
    for (unsigned i = 0; kind == OUTPUTS && i < lx->outputs->len; i++)
        add_name(names, device, ((struct lex_output *)lx->outputs->pdata[i])->name);
    for (unsigned i = 0; kind == INPUTS && i < lx->inputs->len; i++)
        add_name(names, device, ((struct lex_input *)lx->inputs->pdata[i])->name);
}

static GPtrArray *names_of(const struct scene_file *file, enum known kind)
{
    GPtrArray *names = g_ptr_array_new_with_free_func(g_free);
    const struct world_file *world = file->world;
    const struct lexicon *lx = file->lx;
    name_board(names, kind, NULL, lx);
    for (unsigned i = 0; i < world->devices->len; i++) {
        const struct world_device *device = world->devices->pdata[i];
        name_board(names, kind, device, device->lx);
    }
    for (unsigned i = 0; kind == SPEAKERS && i < world->controllers->len; i++)
        add_name(names, NULL, g_array_index(world->controllers, struct world_controller, i).name);
    for (unsigned i = 0; kind >= BUTTONS && i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        for (unsigned k = 0; kind == BUTTONS && k < handset->buttons->len; k++)
            g_ptr_array_add(names,
                            g_strdup(((struct lex_button *)handset->buttons->pdata[k])->name));
        for (unsigned k = 0; kind == SLIDERS && k < handset->sliders->len; k++)
            g_ptr_array_add(names,
                            g_strdup(((struct lex_slider *)handset->sliders->pdata[k])->name));
    }
    return names;
}

/* One of them; NULL after a fault that lists them all. */
static char *known_name(struct statement *st, enum known kind, const char *what)
{
    struct token *token = statement_take(st);
    GPtrArray *names = names_of(st->lx->target, kind);
    const char *name = token->kind == TOKEN_WORD ? token->text : "";
    char *found = NULL;
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < names->len; i++) {
        g_string_append_printf(all, "%s%s", i ? ", " : "", (char *)names->pdata[i]);
        if (!strcmp(names->pdata[i], name)) found = g_strdup(name);
    }
    if (!found)
        lex_fault(st->lx, token->place, "expected %s: %s", what,
                  names->len ? all->str : "the lexicon has none");
    g_string_free(all, TRUE);
    g_ptr_array_free(names, TRUE);
    return found;
}

/* [WORD T] */
static bool read_time(struct statement *st, const char *word, const char *what,
                      uint32_t standard_ms, uint64_t *us)
{
    uint32_t ms = standard_ms;
    if (statement_take_word(st, word) && !statement_time(st, what, 1, 86400000, &ms)) return false;
    *us = ms * UINT64_C(1000);
    return true;
}

/* [within T] */
static bool read_within(struct statement *st, uint32_t standard_ms, uint64_t *us)
{
    if (!read_time(st, "within", "until when", standard_ms, us)) return false;
    g_free(statement_title(st));
    return true;
}

static void read_say(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_SAY, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, SPEAKERS, "over which link"))) return;
    step.text = quoted(st, "the text to send");
    g_free(statement_title(st));
    add(scene, step);
}

static bool is_attacker(const struct scene_file *file, const char *name)
{
    for (unsigned i = 0; file->world && i < file->world->controllers->len; i++) {
        const struct world_controller *c =
            &g_array_index(file->world->controllers, struct world_controller, i);
        if (c->attacker && !strcmp(c->name, name)) return true;
    }
    return false;
}

static void read_replay(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_REPLAY, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, SPEAKERS, "who"))) return;
    if (!is_attacker(st->lx->target, step.who))
        lex_fault(st->lx, step.place, "'%s' is no attacker of the world file", step.who);
    step.text = quoted(st, "what the packet looks like, like \"*pump on*\"");
    g_free(statement_title(st));
    add(scene, step);
}

/* \r, \n and \xNN become bytes; a 0 ends the text. */
static void unescape(char *text)
{
    char *to = text;
    for (const char *from = text; *from; from++) {
        bool hex = from[0] == '\\' && from[1] == 'x' && g_ascii_isxdigit(from[2]) &&
                   g_ascii_isxdigit(from[3]);
        if (hex) {
            *to++ = (char)(g_ascii_xdigit_value(from[2]) * 16 + g_ascii_xdigit_value(from[3]));
            from += 3;
        } else if (from[0] == '\\' && (from[1] == 'r' || from[1] == 'n')) {
            *to++ = *++from == 'r' ? '\r' : '\n';
        } else {
            *to++ = *from;
        }
    }
    *to = 0;
}

/* type LINK "bytes": with \r, \n and \xNN for those that cannot be written */
static void read_type(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_TYPE, .place = statement_peek(st)->place};
    const struct scene_file *file = st->lx->target;
    if (!scene || !(step.who = known_name(st, SPEAKERS, "over which link"))) return;
    const struct lex_link *link = lexicon_link(file->lx, step.who);
    if (!link || lex_comes_whole(link))
        lex_fault(st->lx, step.place,
                  "bytes are typed on serial, bridge and modem links: say \"...\"");
    char *text = quoted(st, "the bytes");
    if (text) unescape(text);
    step.text = text;
    g_free(statement_title(st));
    add(scene, step);
}

static void read_from(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_FROM, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, SPEAKERS, "over which link"))) return;
    step.text = quoted(st, "the number of who writes");
    g_free(statement_title(st));
    add(scene, step);
}

static void read_hear(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_HEAR, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, SPEAKERS, "over which link"))) return;
    const struct scene_file *file = st->lx->target;
    const struct lex_link *link = lexicon_link(file->lx, step.who);
    step.text = quoted(st, "what is heard");
    read_within(st, link && link->medium == LEX_SMS ? MESSAGE_MS : HEAR_MS, &step.us);
    add(scene, step);
}

static void read_see(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_SEE, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, OUTPUTS, "an output"))) return;
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_WORD)
        step.text = g_strdup(token->text);
    else
        lex_fault(st->lx, token->place,
                  "expected how it is: on, off, 40%%, opening, closing, stopped, 1500us, 440Hz");
    if (read_time(st, "within", "until when", SEE_MS, &step.us) &&
        read_time(st, "for", "how long it stays so", 0, &step.lasts_us))
        g_free(statement_title(st));
    add(scene, step);
}

static bool read_for(struct statement *st, const char *what, uint64_t *us)
{
    uint32_t ms;
    if (!statement_time(st, what, 1, 86400000, &ms)) return false;
    *us = ms * UINT64_C(1000);
    g_free(statement_title(st));
    return true;
}

/* silence [LINK] T */
static void read_silence(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_SILENCE, .place = statement_peek(st)->place};
    if (!scene) return;
    if (!g_ascii_isdigit(statement_peek(st)->text ? *statement_peek(st)->text : 'x'))
        step.who = known_name(st, SPEAKERS, "the link, or the time without a frame");
    if (read_for(st, "how long nothing is heard", &step.us))
        add(scene, step);
    else
        clear_step(&step);
}

/* still T [OUTPUT ...] */
static void read_still(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_STILL, .place = statement_peek(st)->place};
    const struct scene_file *file = st->lx->target;
    GString *outputs = g_string_new(NULL);
    uint32_t ms;
    if (!scene || !statement_time(st, "how long no output changes", 1, 86400000, &ms)) {
        g_string_free(outputs, TRUE);
        return;
    }
    step.us = ms * UINT64_C(1000);
    while (statement_peek(st)->kind == TOKEN_WORD) {
        struct token *token = statement_take(st);
        if (!lexicon_output(file->lx, token->text))
            lex_fault(st->lx, token->place, "expected an output of this board, not '%s'",
                      token->text);
        g_string_append_printf(outputs, "%s%s", outputs->len ? " " : "", token->text);
    }
    g_free(statement_title(st));
    step.text = g_string_free(outputs, outputs->len == 0);
    add(scene, step);
}

static void read_wait(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_WAIT, .place = statement_peek(st)->place};
    if (scene && read_for(st, "how long", &step.us)) add(scene, step);
}

static void read_push(struct statement *st)
{
    static const char *const ways[] = {"on", "off", NULL};
    unsigned way = 0;
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_PUSH, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, INPUTS, "an input"))) return;
    statement_one_of(st, "where to", ways, &way);
    step.text = g_strdup(ways[way]);
    g_free(statement_title(st));
    add(scene, step);
}

static void read_button_use(struct statement *st, enum scene_what what)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = what, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, BUTTONS, "a button"))) return;
    g_free(statement_title(st));
    add(scene, step);
}

static void read_press(struct statement *st)
{
    read_button_use(st, SCENE_PRESS);
}

static void read_release(struct statement *st)
{
    read_button_use(st, SCENE_RELEASE);
}

static void read_slide(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_SLIDE, .place = statement_peek(st)->place};
    if (!scene || !(step.who = known_name(st, SLIDERS, "a slider"))) return;
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_WORD)
        step.text = g_strdup(token->text);
    else
        lex_fault(st->lx, token->place, "expected where it is slid to, a number");
    g_free(statement_title(st));
    add(scene, step);
}

/* break "jam gate" */
static void read_break(struct statement *st)
{
    const struct scene_file *file = st->lx->target;
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_BREAK, .place = statement_peek(st)->place};
    if (!scene) return;
    if (!file->loads)
        lex_fault(st->lx, step.place,
                  "nothing hangs on the pins: write 'loads' behind the lexicon");
    step.text = quoted(st, "what breaks, like \"jam gate\"");
    g_free(statement_title(st));
    add(scene, step);
}

/* now cable bench noise 1/100 */
static void read_now(struct statement *st)
{
    const struct scene_file *file = st->lx->target;
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_NOW, .place = statement_peek(st)->place};
    if (!scene) return;
    step.text = statement_rest(st);
    struct world_file *more = world_file_more(file->world, step.text, file->lx);
    if (lexicon_has(more->read, false))
        lex_fault(st->lx, step.place, "%s",
                  ((struct lex_fault *)more->read->faults->pdata[0])->text);
    world_file_free(more);
    add(scene, step);
}

static void read_repeat(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_REPEAT, .place = statement_peek(st)->place};
    unsigned open = 0;
    if (!scene) return;
    for (unsigned i = 0; i < scene->steps->len; i++) {
        const struct scene_step *other = &g_array_index(scene->steps, struct scene_step, i);
        open += other->what == SCENE_REPEAT && !other->other;
    }
    if (open == DEEP) lex_fault(st->lx, step.place, "more than %u repeats in one another", DEEP);
    if (!statement_number(st, "how often", 1, REPEATS_MOST, &step.times)) return;
    g_free(statement_title(st));
    add(scene, step);
}

static void read_end(struct statement *st)
{
    struct scene *scene = scene_of(st);
    struct scene_step step = {.what = SCENE_END, .place = statement_peek(st)->place};
    if (!scene) return;
    for (unsigned i = scene->steps->len; i--;) {
        struct scene_step *begun = &g_array_index(scene->steps, struct scene_step, i);
        if (begun->what != SCENE_REPEAT || begun->other) continue;
        begun->other = scene->steps->len;
        step.other = i;
        g_free(statement_title(st));
        add(scene, step);
        return;
    }
    lex_fault(st->lx, step.place, "no 'repeat' above it");
}

static const struct lex_statement_kind kinds[] = {
    {"lexicon", read_lexicon}, {"scene", read_scene},
    {"say", read_say},         {"replay", read_replay},
    {"type", read_type},       {"from", read_from},
    {"hear", read_hear},       {"silence", read_silence},
    {"see", read_see},         {"still", read_still},
    {"push", read_push},       {"press", read_press},
    {"release", read_release}, {"slide", read_slide},
    {"break", read_break},     {"now", read_now},
    {"wait", read_wait},       {"repeat", read_repeat},
    {"end", read_end},         {NULL, NULL}};

const struct lex_statement_kind *scene_statements(void)
{
    return kinds;
}

/* ---- the whole file ---- */

static void check_repeats(const struct scene_file *file)
{
    for (unsigned i = 0; i < file->scenes->len; i++) {
        const struct scene *scene = file->scenes->pdata[i];
        for (unsigned k = 0; k < scene->steps->len; k++) {
            const struct scene_step *step = &g_array_index(scene->steps, struct scene_step, k);
            if (step->what == SCENE_REPEAT && !step->other)
                lex_fault(file->read, step->place, "it has no 'end'");
        }
    }
}

static struct scene_file *file_new(const char *name)
{
    struct scene_file *file = g_new0(struct scene_file, 1);
    file->name = g_strdup(name);
    file->scenes = g_ptr_array_new_with_free_func(scene_free);
    return file;
}

static void read_statements(struct scene_file *file, char *text, gsize size)
{
    file->read = lex_read_other(file->name, text, size, kinds, file);
    file->read->target = NULL;
    check_repeats(file);
    if (!file->scenes->len && !file->read->faults->len)
        lex_fault(file->read, (struct lex_place){0}, "no scene in it");
}

struct scene_file *scene_file_read(const char *name, GError **error)
{
    char *text;
    size_t size;
    if (!files_read(name, LEX_FILE_MAX, &text, &size, error)) return NULL;
    struct scene_file *file = file_new(files_shown(name));
    read_statements(file, text, size);
    return file;
}

struct scene_file *scene_file_of(struct lexicon *lx, const struct image *image, const char *world,
                                 const char *text)
{
    struct scene_file *file = file_new("");
    file->lx = lx;
    file->image = image;
    file->borrowed = true;
    file->world = world_file_text("", g_strdup(world), strlen(world), lx);
    read_statements(file, g_strdup(text), strlen(text));
    return file;
}

void scene_file_free(struct scene_file *file)
{
    if (!file) return;
    g_ptr_array_free(file->scenes, TRUE);
    world_file_free(file->world);
    if (file->image && !file->borrowed) image_free((struct image *)file->image);
    if (file->lx && !file->borrowed) lexicon_free(file->lx);
    lexicon_free(file->read);
    g_free(file->firmware);
    g_free(file->name);
    g_free(file);
}
