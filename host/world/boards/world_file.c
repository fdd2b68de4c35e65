/* Reads a world file: devices, controllers, strangers, and what changes when.
 * The statements' language is the lexicon's.
 * Statements about links are in world_links.c. */
#include "world/boards/world_file.h"

#include "files/files.h"

#include <string.h>

#include "lexicon/check/check.h"
#include "world/boards/world_parts.h"

/* ---- bridges ---- */

/* A text in quotes behind a word, NULL where that is not there: after a fault where it must be. */
static char *text_after(struct statement *st, const char *word, bool must, const char *what)
{
    if (word && !statement_take_word(st, word)) {
        if (must)
            lex_fault(st->lx, statement_peek(st)->place, "expected '%s' and %s in quotes", word,
                      what);
        return NULL;
    }
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_STRING && *token->text) return g_strdup(token->text);
    lex_fault(st->lx, token->place, "expected %s in quotes", what);
    return NULL;
}

/* connect LINK to "NAME" [code "CODE"] */
static void read_connect(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_change change = {.at_us = t->at_us, .what = WORLD_CONNECT};
    if (!world_named_link(st, WORLD_BRIDGE, &change.place)) return;
    change.connect.name = text_after(st, "to", true, "the bridge's name");
    if (!change.connect.name) return;
    change.connect.code = text_after(st, "code", false, "its code");
    g_free(statement_title(st));
    g_array_append_val(t->file->changes, change);
}

/* leave LINK */
static void read_leave(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_change change = {.at_us = t->at_us, .what = WORLD_LEAVE};
    if (!world_named_link(st, WORLD_BRIDGE, &change.place)) return;
    g_free(statement_title(st));
    g_array_append_val(t->file->changes, change);
}

/* name "tank-7" [code "4711"] [notices 2s], or of a stranger the same without 'name' */
static void read_bridge_of(struct statement *st, struct world_bridge bridge)
{
    struct target *t = st->lx->target;
    struct lex_place place = statement_peek(st)->place;
    bridge.notices_us = 2000000;
    bridge.name = text_after(st, bridge.stranger ? NULL : "name", true, "the bridge's name");
    if (!bridge.name) return;
    bridge.code = text_after(st, "code", false, "its code");
    if (statement_take_word(st, "notices"))
        world_read_us(st, "the time after which it notices that nobody is there",
                      &bridge.notices_us);
    g_free(statement_title(st));
    for (unsigned i = 0; i < t->file->bridges->len; i++)
        if (!strcmp(g_array_index(t->file->bridges, struct world_bridge, i).name, bridge.name))
            lex_fault(st->lx, place, "a second bridge '%s'", bridge.name);
    g_array_append_val(t->file->bridges, bridge);
}

static void read_bridge(struct statement *st)
{
    struct world_bridge bridge = {.stranger = false};
    if (world_named_link(st, WORLD_BRIDGE, &bridge.place)) read_bridge_of(st, bridge);
}

static void read_stranger(struct statement *st)
{
    read_bridge_of(st, (struct world_bridge){.stranger = true});
}

/* ---- what shares the line ---- */

static bool replace_text(struct statement *st, char **text, const char *what)
{
    g_free(*text);
    return (*text = text_after(st, NULL, true, what)) != NULL;
}

static bool read_says(struct statement *st, void *target)
{
    return replace_text(st, &((struct world_loader *)target)->says, "the text that it sends");
}

static bool read_hears(struct statement *st, void *target)
{
    return replace_text(st, &((struct world_loader *)target)->hears, "the text that it receives");
}

static bool read_loader_baud(struct statement *st, void *target)
{
    return statement_number(st, "the loader's baud rate", 50, 4000000,
                            &((struct world_loader *)target)->baud);
}

static bool read_for(struct statement *st, void *target)
{
    return world_read_us(st, "how long it runs", &((struct world_loader *)target)->for_us);
}

static const struct attribute loader[] = {{"says", read_says, 0},
                                          {"hears", read_hears, 0},
                                          {"baud", read_loader_baud, 0},
                                          {"for", read_for, 0},
                                          {NULL, NULL, 0}};

/* loader LINK says "..." hears "..." baud N for T */
static void read_loader(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_loader l = {.for_us = 0};
    struct lex_place place = statement_peek(st)->place;
    if (!world_named_link(st, WORLD_WIRED, &l.place)) return;
    for (unsigned i = 0; i < t->file->loaders->len; i++) {
        const struct world_loader *other = &g_array_index(t->file->loaders, struct world_loader, i);
        if (other->place.device == l.place.device && other->place.link == l.place.link)
            lex_fault(st->lx, place, "a second loader on this link");
    }
    if (statement_attributes(st, loader, 0, statement_any_kind, "loader", &l))
        g_free(statement_title(st));
    g_array_append_val(t->file->loaders, l);
}

/* ---- devices ---- */

static void device_free_(void *p)
{
    struct world_device *d = p;
    g_free(d->name);
    g_free(d->firmware);
    if (d->image) image_free(d->image);
    if (d->lx) lexicon_free(d->lx);
    g_free(d);
}

/* A path beside the world file, but an absolute one. */
static char *path_beside(struct statement *st, const char *path)
{
    char *folder = g_path_get_dirname(st->lx->file);
    char *whole = g_path_is_absolute(path) ? g_strdup(path) : g_build_filename(folder, path, NULL);
    g_free(folder);
    return whole;
}

/* The lexicon, which must run; NULL after a fault. */
static struct lexicon *runnable(struct statement *st, struct lex_place place, const char *path,
                                struct image **image)
{
    GError *error = NULL;
    struct lexicon *lx = lexicon_read(path, &error);
    if (!lx) {
        lex_fault(st->lx, place, "%s", error->message);
        g_clear_error(&error);
        return NULL;
    }
    *image = image_build(lx);
    lexicon_check(lx, *image);
    GPtrArray *missing = image_not_run(lx);
    bool ok = !lexicon_has(lx, false) && !missing->len;
    g_ptr_array_free(missing, TRUE);
    if (ok) return lx;
    lex_fault(st->lx, place, "%s has faults: run rlx check", path);
    image_free(*image);
    lexicon_free(lx);
    return NULL;
}

/* device NAME lexicon "FILE" [firmware "PROGRAM"] */
static void read_device(struct statement *st)
{
    struct target *t = st->lx->target;
    struct lex_place place = statement_peek(st)->place;
    struct world_device *d = g_new0(struct world_device, 1);
    d->name = statement_name(st, "the device's name");
    for (unsigned i = 0; d->name && i < t->file->devices->len; i++)
        if (!strcmp(((struct world_device *)t->file->devices->pdata[i])->name, d->name))
            lex_fault(st->lx, place, "a second device '%s'", d->name);
    if (statement_peek(st)->kind != TOKEN_END) place = statement_peek(st)[1].place;
    char *path = d->name ? text_after(st, "lexicon", true, "its file") : NULL;
    char *program = path ? text_after(st, "firmware", false, "the program's file") : NULL;
    if (path) {
        char *whole = path_beside(st, path);
        d->lx = runnable(st, place, whole, &d->image);
        g_free(whole);
    }
    if (d->lx) g_free(statement_title(st));
    if (program) d->firmware = path_beside(st, program);
    g_free(path);
    g_free(program);
    if (d->lx)
        g_ptr_array_add(t->file->devices, d);
    else
        device_free_(d);
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
    return statement_number(st, "how often it sends a command", 1, 20,
                            &((struct world_controller *)target)->tries);
}

static bool read_pause(struct statement *st, void *target)
{
    return statement_time(st, "the time to its second try", 1, 10000,
                          &((struct world_controller *)target)->pause_ms);
}

static bool read_one_way(struct statement *st, void *target)
{
    (void)st;
    return ((struct world_controller *)target)->one_way = true;
}

/* to all */
static bool read_to(struct statement *st, void *target)
{
    if (!statement_take_word(st, "all")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected like: to all");
        return false;
    }
    return ((struct world_controller *)target)->all = true;
}

static const struct attribute controller[] = {
    {"from", read_from, 0},       {"tries", read_tries, 0}, {"pause", read_pause, 0},
    {"one-way", read_one_way, 0}, {"to", read_to, 0},       {NULL, NULL, 0}};

/* controller NAME on LINK from N tries N pause T */
static void read_controller(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_controller c = {.tries = 4, .pause_ms = 200};
    c.name = statement_name(st, "the controller's name");
    if (!c.name) return;
    if (!statement_take_word(st, "on")) {
        lex_fault(st->lx, statement_peek(st)->place, "expected 'on' and a radio link");
        g_free(c.name);
        return;
    }
    struct lex_place place = statement_peek(st)->place;
    const struct lex_link *link = world_named_link(st, 1u << LEX_RADIO, &c.place);
    bool ok = link && statement_attributes(st, controller, 0, statement_any_kind, "controller", &c);
    if (link && link->layout) {
        lex_fault(st->lx, place,
                  "'%s' has frames of bytes, which no controller repeats: say them in a scene",
                  link->name);
        ok = false;
    } else if (link && (link->address < 0 || (!link->tags && !link->seal))) {
        lex_fault(st->lx, place, "a controller needs a link with address and tags, or seals");
        ok = false;
    } else if (link && c.from > link->senders) {
        lex_fault(st->lx, place,
                  link->senders ? "'%s' has the senders 1..%u, and no %u"
                                : "'%s' has no senders: leave 'from' out",
                  link->name, link->senders, c.from);
        ok = false;
    }
    if (link && link->senders && !c.from) c.from = 1;
    bool answered = !c.one_way && !c.all;
    uint32_t span = c.pause_ms * (answered ? (c.tries - 1) * c.tries / 2 : c.tries - 1);
    if (ok && span > link->window / 2) {
        lex_fault(
            st->lx, place,
            "'%s' repeats a command for %u ms, but '%s' remembers a tag for %u ms, of which "
            "half "
            "are for packets that are late: fewer tries, a shorter pause, or in the lexicon 'tags "
            "required window %us'",
            c.name, span, link->name, link->window, (2 * span + 999) / 1000);
        ok = false;
    }
    if (ok) g_free(statement_title(st));
    if (ok)
        g_array_append_val(t->file->controllers, c);
    else
        g_free(c.name);
}

/* attacker NAME on LINK */
static void read_attacker(struct statement *st)
{
    struct target *t = st->lx->target;
    struct world_controller c = {.attacker = true};
    c.name = statement_name(st, "the attacker's name");
    if (!c.name) return;
    bool on = statement_take_word(st, "on");
    if (!on) lex_fault(st->lx, statement_peek(st)->place, "expected 'on' and a radio link");
    if (on && world_named_link(st, 1u << LEX_RADIO, &c.place)) {
        g_free(statement_title(st));
        g_array_append_val(t->file->controllers, c);
    } else {
        g_free(c.name);
    }
}

static void read_after(struct statement *st);
static void read_push(struct statement *st);

static const struct lex_statement_kind kinds[] = {{"seed", read_seed},
                                                  {"device", read_device},
                                                  {"wire", world_read_wire},
                                                  {"cable", world_read_cable},
                                                  {"modem", world_read_modem},
                                                  {"air", world_read_air},
                                                  {"reports", world_read_reports},
                                                  {"sms", world_read_sms},
                                                  {"bridge", read_bridge},
                                                  {"stranger", read_stranger},
                                                  {"connect", read_connect},
                                                  {"leave", read_leave},
                                                  {"loader", read_loader},
                                                  {"controller", read_controller},
                                                  {"attacker", read_attacker},
                                                  {"push", read_push},
                                                  {"after", read_after},
                                                  {NULL, NULL}};

const struct lex_statement_kind *world_statements(void)
{
    return kinds;
}

/* reset [DEVICE] [CAUSE] */
static void read_reset(struct statement *st)
{
    static const char *const causes[] = {
#define NAME(id, name) name,
        RLX_RESETS(NAME)
#undef NAME
            NULL};
    struct target *t = st->lx->target;
    struct world_change change = {.at_us = t->at_us, .what = WORLD_RESET};
    unsigned cause = RLX_RESET_POWER;
    for (unsigned i = 0; i < t->file->devices->len && !change.place.device; i++)
        if (statement_take_word(st, ((struct world_device *)t->file->devices->pdata[i])->name))
            change.place.device = i + 1;
    if (statement_peek(st)->kind == TOKEN_WORD &&
        !statement_one_of(st, "why it starts anew", causes, &cause))
        return;
    change.cause = (enum rlx_reset)cause;
    g_free(statement_title(st));
    g_array_append_val(t->file->changes, change);
}

/* push INPUT on|off */
static void read_push(struct statement *st)
{
    static const char *const levels[] = {"off", "on", NULL};
    struct target *t = st->lx->target;
    struct world_change change = {.at_us = t->at_us, .what = WORLD_PUSH};
    unsigned on;
    change.input = world_named_input(st, &change.place);
    if (!change.input || !statement_one_of(st, "how it is", levels, &on)) return;
    change.on = on;
    g_free(statement_title(st));
    g_array_append_val(t->file->changes, change);
}

/* after T cable ..., air ... */
static void read_after(struct statement *st)
{
    static const struct lex_statement_kind later[] = {
        {"cable", world_read_cable}, {"modem", world_read_modem},
        {"air", world_read_air},     {"reports", world_read_reports},
        {"sms", world_read_sms},     {"connect", read_connect},
        {"leave", read_leave},       {"reset", read_reset},
        {"push", read_push},         {NULL, NULL}};
    struct target *t = st->lx->target;
    uint32_t ms;
    if (!statement_time(st, "when it begins", 1, 86400000, &ms)) return;
    struct token *token = statement_take(st);
    const struct lex_statement_kind *kind = later;
    while (kind->word && (token->kind != TOKEN_WORD || strcmp(token->text, kind->word) != 0))
        kind++;
    t->at_us = ms * UINT64_C(1000);
    if (kind->word)
        kind->read(st);
    else
        lex_fault(st->lx, token->place,
                  "expected what is so from then on: cable, modem, air, reports, sms, connect, "
                  "leave, reset or push");
    t->at_us = 0;
}

/* ---- the whole file ---- */

static void clear_controller(void *p)
{
    g_free(((struct world_controller *)p)->name);
}

static void clear_change(void *p)
{
    struct world_change *change = p;
    g_free(change->connect.name);
    g_free(change->connect.code);
}

static void clear_bridge(void *p)
{
    struct world_bridge *bridge = p;
    g_free(bridge->name);
    g_free(bridge->code);
}

static void clear_loader(void *p)
{
    struct world_loader *l = p;
    g_free(l->says);
    g_free(l->hears);
}

static GArray *array_of(unsigned size, GDestroyNotify clear)
{
    GArray *array = g_array_new(FALSE, FALSE, size);
    if (clear) g_array_set_clear_func(array, clear);
    return array;
}

static struct world_file *file_new(struct lexicon *lx)
{
    struct world_file *file = g_new0(struct world_file, 1);
    file->seed = 1;
    file->lx = lx;
    file->devices = g_ptr_array_new_with_free_func(device_free_);
    file->changes = array_of(sizeof(struct world_change), clear_change);
    file->wires = array_of(sizeof(struct world_join), NULL);
    file->airs = array_of(sizeof(struct world_join), NULL);
    file->controllers = array_of(sizeof(struct world_controller), clear_controller);
    file->bridges = array_of(sizeof(struct world_bridge), clear_bridge);
    file->loaders = array_of(sizeof(struct world_loader), clear_loader);
    return file;
}

static struct world_file *read_text(struct world_file *file, const char *name, char *text,
                                    size_t size)
{
    struct target target = {file, 0};
    file->read = lex_read_other(name, text, size, kinds, &target);
    file->read->target = NULL;
    return file;
}

struct world_file *world_file_text(const char *name, char *text, size_t size, struct lexicon *lx)
{
    return read_text(file_new(lx), name, text, size);
}

struct world_file *world_file_more(const struct world_file *before, const char *text,
                                   struct lexicon *lx)
{
    struct world_file *file = file_new(lx);
    g_ptr_array_unref(file->devices);
    file->devices = g_ptr_array_ref(before->devices);
    for (unsigned i = 0; i < before->changes->len; i++) {
        struct world_change change = g_array_index(before->changes, struct world_change, i);
        change.connect.name = change.connect.code = NULL;
        if (change.what <= WORLD_SMS) g_array_append_val(file->changes, change);
    }
    file->known = file->changes->len;
    char *whole = g_strconcat("after 1ms ", text, NULL);
    return read_text(file, "now", whole, strlen(whole));
}

struct world_file *world_file_read(const char *name, struct lexicon *lx, GError **error)
{
    char *text;
    size_t size;
    if (!files_read(name, LEX_FILE_MAX, &text, &size, error)) return NULL;
    return world_file_text(files_shown(name), text, size, lx);
}

void world_file_free(struct world_file *file)
{
    if (!file) return;
    g_ptr_array_unref(file->devices);
    g_array_free(file->changes, TRUE);
    g_array_free(file->wires, TRUE);
    g_array_free(file->airs, TRUE);
    g_array_free(file->controllers, TRUE);
    g_array_free(file->bridges, TRUE);
    g_array_free(file->loaders, TRUE);
    lexicon_free(file->read);
    g_free(file);
}
