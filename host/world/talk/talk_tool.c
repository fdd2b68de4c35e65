/* Lines for the tool, which begin with "! ": pins, buttons, loads, bridges, other links, events and
 * notes. Each tells what it did; what is none is told by talk.c. Nothing here speaks to the device
 * over a link. */
#include <string.h>

#include "lexicon/read/reader.h"
#include "world/talk/talk_parts.h"

/* A name's board, "two.upper", and what stands behind the dot. */
static struct board *board_of(const struct talk *t, const char *name, const char **rest)
{
    const char *dot = strchr(name, '.');
    *rest = dot ? dot + 1 : name;
    for (unsigned i = 0; i < t->bench->boards->len; i++) {
        struct board *board = t->bench->boards->pdata[i];
        size_t n = strlen(board->name);
        if (dot ? n == (size_t)(dot - name) && !strncmp(board->name, name, n) : !n) return board;
    }
    return NULL;
}

static void tell_moved(struct talk *t, const char *name, const char *how, unsigned pin, bool high)
{
    if (t->options->plain) return;
    talk_stamp(t, '!', name);
    fprintf(t->out, "%-6s (pin %u %s)\n", how, pin, high ? "high" : "low");
}

/* "up skiff": the level at a link's state pin. */
static bool move_link(struct talk *t, char **words)
{
    struct end *end = bench_end(t->bench, words[1]);
    bool up = !strcmp(words[0], "up");
    if (!end || (!up && strcmp(words[0], "down") != 0) || end->of->state_pin == LEX_NO_PIN)
        return false;
    tell_moved(t, end->name, words[0], end->of->state_pin, up != end->of->state_low);
    bench_set_pin(end->board, end->of->state_pin, up != end->of->state_low);
    return true;
}

/* "upper on": the level at an input's pin. */
static bool move_pin(struct talk *t, char **words)
{
    const char *name;
    struct board *board = board_of(t, words[0], &name);
    const struct lex_input *in = board ? lexicon_input(board->lx, name) : NULL;
    bool on = !strcmp(words[1], "on");
    if (!in || (!on && strcmp(words[1], "off") != 0)) return false;
    tell_moved(t, words[0], words[1], in->pin, on != in->active_low);
    bench_push(board, in, on);
    return true;
}

/* "jam gate": something is broken. */
static bool break_load(struct talk *t, char **words)
{
    const char *name;
    struct board *board = board_of(t, words[1], &name);
    char *what = g_strdup_printf("%s %s", words[0], name);
    bool broken = board && board->loads && loads_break(board->loads, what);
    g_free(what);
    if (!broken || t->options->plain) return broken;
    talk_stamp(t, '!', words[1]);
    talk_text(t, words[0], strlen(words[0]));
    return true;
}

/* "over skiff", "over shore": the next lines go over this link, or by this controller.
 */
static bool talk_over(struct talk *t, char **words)
{
    struct speaker *speaker = bench_speaker(t->bench, words[1]);
    struct end *end = speaker ? speaker->end : bench_end(t->bench, words[1]);
    if (strcmp(words[0], "over") != 0 || !end) return false;
    t->end = end;
    t->speaker = speaker ? speaker : bench_speaker_to(t->bench, end);
    return true;
}

/* "replay rogue PATTERN": an attacker sends a packet that it heard. */
static bool replay(struct talk *t, const char *line)
{
    char name[64];
    int size = 0;
    if (sscanf(line, "replay %63s %n", name, &size) != 1 || !size) return false;
    struct speaker *speaker = bench_speaker(t->bench, name);
    return speaker && speaker_replay(speaker, line + size);
}

/* "from +15550143": who writes from now on. */
static bool write_as(struct talk *t, char **words)
{
    if (strcmp(words[0], "from") != 0 || !t->end->modem || !bench_is_number(words[1])) return false;
    bench_write_as(t->end, words[1]);
    return true;
}

/* "leave pad": the sender leaves the bridge. */
static bool leave(struct talk *t, char **words)
{
    struct end *end = bench_end(t->bench, words[1]);
    if (strcmp(words[0], "leave") != 0 || !end || end->of->medium != LEX_BRIDGE) return false;
    bench_leave(end);
    return true;
}

/* "connect pad tank-7 4711" */
static bool connect(struct talk *t, char **words, unsigned n)
{
    struct end *end = bench_end(t->bench, words[1]);
    if (strcmp(words[0], "connect") != 0 || !end || end->of->medium != LEX_BRIDGE) return false;
    bench_connect(end, words[2], n > 3 ? words[3] : NULL);
    return true;
}

/* "overflow", "water low": an event that the firmware would send; "note algae low". */
static bool tell(struct talk *t, const char *line)
{
    struct board *board = t->end->board;
    char **words = g_strsplit(line, " ", 3);
    struct lex_event *event = *words ? lexicon_event(board->lx, *words) : NULL;
    guint n = g_strv_length(words), number = 0, word = 0;
    bool note = g_str_has_prefix(line, "note ") && board->lx->built_in & RLX_BUILT_IN_NOTES;
    bool known = event && !event->input && n == (event->what ? 2 : 1) &&
                 g_ptr_array_find(board->lx->events, event, &number) &&
                 (n == 1 || g_ptr_array_find_with_equal_func(event->what->words, words[1],
                                                             g_str_equal, &word));
    g_strfreev(words);
    if (!device_core(board->device) || (!note && !known)) return false;
    if (!t->options->plain) {
        talk_stamp(t, '!', board->name);
        talk_text(t, line, strlen(line));
    }
    if (note ? !device_note(board->device, line + 5) : !device_tell(board->device, number, word))
        talk_mistyped(t, line, "not sent: the last one still waits for room on its links");
    return true;
}

/* "now cable bench noise 1/200": a statement of the world file counts from now on. */
static bool change_world(struct talk *t, const char *line)
{
    if (!g_str_has_prefix(line, "now ")) return false;
    struct lexicon *lx = ((struct board *)t->bench->boards->pdata[0])->lx;
    const struct world_file *before = t->world ? t->world : t->options->bench.world;
    struct world_file *none = before ? NULL : world_file_text("none", g_strdup(""), 0, lx);
    struct world_file *more = world_file_more(before ? before : none, line + 4, lx);
    world_file_free(none);
    bool reports = false;
    for (unsigned i = more->known; i < more->changes->len; i++)
        reports |= g_array_index(more->changes, struct world_change, i).what == WORLD_REPORTS;
    if (lexicon_has(more->read, false)) {
        char *faults = lexicon_faults_text(more->read, 1);
        talk_mistyped(t, line, g_strchomp(faults));
        g_free(faults);
    } else if (reports && !t->options->bench.world) {
        talk_mistyped(t, line, "reports are polled only where --world says how");
    } else {
        bench_now(t->bench, more);
        world_file_free(t->world);
        t->world = more;
        return true;
    }
    world_file_free(more);
    return true;
}

static void add(GPtrArray *all, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void add(GPtrArray *all, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_ptr_array_add(all, g_strdup_vprintf(format, args));
    va_end(args);
}

static void add_handset(GPtrArray *all, const struct lex_handset *h)
{
    for (unsigned i = 0; i < h->buttons->len; i++)
        add(all, "press|release %s", ((struct lex_button *)h->buttons->pdata[i])->name);
    for (unsigned i = 0; i < h->sliders->len; i++)
        add(all, "slide %s N", ((struct lex_slider *)h->sliders->pdata[i])->name);
}

static void add_end(GPtrArray *all, const struct talk *t, const struct end *end)
{
    if (t->bench->ends->len > 1) add(all, "over %s", end->name);
    if (end->of->state_pin != LEX_NO_PIN) add(all, "up|down %s", end->name);
    if (end->of->medium == LEX_BRIDGE && t->options->bench.world) {
        add(all, "connect %s NAME [CODE]", end->name);
        add(all, "leave %s", end->name);
    }
    if (end->modem) add(all, "from +NUMBER");
}

/* What a firmware would tell, where none does. */
static void add_tellings(GPtrArray *all, const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        GString *words = g_string_new(NULL);
        for (unsigned k = 0; event->what && k < event->what->words->len; k++)
            g_string_append_printf(words, "%s%s", k ? "|" : " ",
                                   (char *)event->what->words->pdata[k]);
        if (!event->input) add(all, "%s%s", event->name, words->str);
        g_string_free(words, TRUE);
    }
    if (lx->built_in & RLX_BUILT_IN_NOTES) add(all, "note TEXT");
}

GPtrArray *talk_tool_lines(const struct talk *t)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    const struct board *board = t->end->board;
    const struct lexicon *lx = board->lx;
    add(all, "help");
    add(all, "status");
    if (!device_is_outside(board->device) || t->end->modem) add(all, "now STATEMENT");
    if (device_is_outside(board->device)) {
        if (t->end->modem) add(all, "from +NUMBER");
        return all;
    }
    for (unsigned i = 0; i < lx->inputs->len; i++)
        add(all, "%s on|off", ((struct lex_input *)lx->inputs->pdata[i])->name);
    for (unsigned i = 0; i < lx->handsets->len; i++) add_handset(all, lx->handsets->pdata[i]);
    for (unsigned i = 0; i < t->bench->ends->len; i++) add_end(all, t, t->bench->ends->pdata[i]);
    if (device_core(board->device)) add_tellings(all, lx);
    if (board->loads) add(all, "jam|weld|dead|stick|cut|mend NAME");
    return all;
}

static void help(const struct talk *t)
{
    GPtrArray *all = talk_tool_lines(t);
    for (unsigned i = 0; i < all->len; i++) fprintf(t->out, "! %s\n", (char *)all->pdata[i]);
    if (!t->options->live) fputs("~ TIME\n", t->out);
    g_ptr_array_free(all, TRUE);
}

char *talk_meant(const struct talk *t, const char *line)
{
    GPtrArray *all = talk_tool_lines(t);
    GString *words = g_string_new(NULL);
    for (unsigned i = 0; i < all->len; i++) {
        const char *one = all->pdata[i];
        g_string_append_printf(words, "%s%.*s", i ? "|" : "", (int)strcspn(one, " "), one);
    }
    char *first = g_strndup(line, strcspn(line, " ")), **names = g_strsplit(words->str, "|", -1);
    const char *const *known = (const char *const *)names;
    char *text = g_strv_contains(known, first) ? g_strdup("") : lex_did_you_mean(first, known);
    g_strfreev(names);
    g_string_free(words, TRUE);
    g_ptr_array_free(all, TRUE);
    g_free(first);
    return text;
}

bool talk_act(struct talk *t, const char *line)
{
    char **words = g_strsplit(line, " ", 5);
    unsigned n = g_strv_length(words);
    bool asks = !strcmp(line, "status"), done = asks || !strcmp(line, "help"), handset = false;
    if (asks) {
        talk_status(t);
    } else if (done) {
        help(t);
    } else if (device_is_outside(t->end->board->device)) {
        done = t->end->modem && ((n == 2 && write_as(t, words)) || change_world(t, line));
        g_strfreev(words);
        return done;
    } else if (replay(t, line) || change_world(t, line)) {
        done = true;
    } else if (n == 2) {
        bool down = !strcmp(words[0], "press");
        handset = (down || !strcmp(words[0], "release")) && bench_press(t->bench, words[1], down);
        done = handset || talk_over(t, words) || write_as(t, words) || leave(t, words) ||
               move_link(t, words) || move_pin(t, words) || break_load(t, words);
    } else if (n == 3) {
        handset = !strcmp(words[0], "slide") && bench_slide(t->bench, words[1], words[2]);
        done = handset || connect(t, words, n);
    } else if (n == 4) {
        done = connect(t, words, n);
    }
    if (!done) done = tell(t, line);
    if (handset && !t->options->live)
        bench_until_all_quiet(t->bench);
    else if (done)
        talk_wait_for(t, t->end);
    g_strfreev(words);
    return done;
}
