/* A conversation at a terminal or from a pipe: lines in, sights out.
 * A line begins with a mark for the tool, or goes to the device.
 * What is printed is in talk_print.c. */
#include "world/talk/talk_parts.h"

#include <string.h>

#define INPUT_MOST (1024u * 1024) /* bytes of a line, or of all with --raw */

/* ---- the sender ---- */

/* Until the device has answered, where the clock does not go by itself. */
static void wait_for(struct talk *t, struct end *end)
{
    if (!t->options->live) bench_until_quiet(end);
}

/* A line for the tool that is none. */
static void mistyped(struct talk *t, const char *line, const char *wanted)
{
    fflush(t->out);
    g_printerr("%s: \"%s\": %s\n", g_get_prgname(), line, wanted);
    if (t->options->mistyped) *t->options->mistyped = true;
}

/* "~ 2s": so much time goes by. False: it is something else. */
static bool let_pass(struct talk *t, const char *line)
{
    struct lex_element any = {.kind = LEX_NUMBER, .form = LEX_TIME, .high = 86400000};
    int32_t ms;
    if (line[0] != '~' || line[1] != ' ') return false;
    if (t->options->live)
        mistyped(t, line, "time goes by itself here");
    else if (lex_value_said(&any, line + 2, &ms))
        bench_pass(t->bench, (uint64_t)ms * 1000);
    else
        mistyped(t, line,
                 "expected a time up to 24h, like ~ 500ms, ~ 2s, ~ 5min; nothing was sent");
    return true;
}

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
        mistyped(t, line, "not sent: the last one still waits for room on its links");
    return true;
}

/* What stands behind "! ": false: it is nothing of this. */
static bool act(struct talk *t, const char *line)
{
    char **words = g_strsplit(line, " ", 5);
    unsigned n = g_strv_length(words);
    bool done = false, handset = false;
    if (n == 2) {
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
        wait_for(t, t->end);
    g_strfreev(words);
    return done;
}

/* A line as it is typed at a terminal: with what ends it, or key by key. */
static void say(struct talk *t, const char *line, size_t count)
{
    struct end *end = t->end;
    if (t->speaker) {
        if (speaker_say(t->speaker, line)) {
            if (!t->options->live) bench_until_known(t->speaker);
            wait_for(t, end);
        } else {
            g_printerr("%s: \"%s\" is longer than a controller's command, %u bytes\n",
                       g_get_prgname(), line, (unsigned)RLX_CLIENT_BYTES);
        }
        return;
    }
    bool keys = end->of->frame == LEX_FRAME_KEYS;
    for (size_t i = 0; keys && i < count; i++) {
        if (end->of->lead && line[i] == end->of->lead) { /* a line from here on, with its end */
            bench_say_line(end, line + i, count - i);
            wait_for(t, end);
            return;
        }
        bench_say(end, line + i, 1);
        wait_for(t, end);
    }
    if (keys) return;
    bench_say(end, line, count);
    wait_for(t, end);
    if (t->options->live || !lex_ends_itself(end->of)) return;
    bench_until_said(t->bench);
    bench_tell_rest(end);
}

/* Without what ends it; false: there is no more. One of INPUT_MOST bytes is the last one. */
static bool next_line(FILE *in, GString *line)
{
    int c = EOF;
    g_string_truncate(line, 0);
    while (line->len < INPUT_MOST && (c = getc(in)) != EOF && c != '\n')
        g_string_append_c(line, (char)c);
    bool any = line->len || c == '\n';
    if (line->len && line->str[line->len - 1] == '\r') g_string_truncate(line, line->len - 1);
    return any;
}

void talk_line(struct talk *t, const char *line, size_t count)
{
    bool command = g_str_has_prefix(line, "! ");
    if (command && !act(t, line + 2))
        mistyped(t, line,
                 t->options->bench.firmware
                     ? "no input, link, button or slider moves by that, and no load breaks; events "
                       "and notes are the firmware's"
                     : "no input, link, button or slider moves by that, no load breaks, and it "
                       "is no event or note of the lexicon's");
    else if (!command && !let_pass(t, line))
        say(t, line, count);
}

static void converse(struct talk *t, FILE *in)
{
    GString *typed = g_string_new(NULL);
    while (!bench_failure(t->bench)) {
        if (t->options->prompt) fprintf(t->out, "> "), fflush(t->out);
        if (!next_line(in, typed)) break;
        const char *line = typed->str;
        size_t count = typed->len;
        if (count == INPUT_MOST) {
            mistyped(t, "the input", "a line of it has more than 1 MB: it ends here");
            break;
        }
        talk_line(t, line, count);
        talk_tell_ramp(t);
        fflush(t->out);
    }
    g_string_free(typed, TRUE);
}

static void pour(struct talk *t, FILE *in)
{
    int c;
    GString *line = g_string_new(NULL);
    while (line->len < INPUT_MOST && (c = getc(in)) != EOF) g_string_append_c(line, (char)c);
    if (line->len == INPUT_MOST)
        mistyped(t, "the input", "it has more than 1 MB: the rest is not sent");
    bool packets = lex_comes_whole(t->end->of);
    gsize most = t->end->of->payload ? t->end->of->payload : 1;
    for (gsize at = 0; packets && at < line->len; at += most)
        bench_say_bytes(t->end, line->str + at, MIN(most, line->len - at)); /* a packet each */
    if (!packets) bench_type(t->end, line->str, line->len);
    struct sight sight = {.kind = SIGHT_SAID,
                          .board = t->end->board,
                          .end = t->end,
                          .name = t->end->name,
                          .text = line->str,
                          .count = line->len};
    if (t->options->trace) trace_sight(t->options->trace, &sight);
    if (!t->options->plain) talk_print(t, &sight);
    g_string_free(line, TRUE);
    bench_until_quiet(t->end);
}

/* ---- begin and end ---- */

static bool find_link(struct talk *t, GError **error)
{
    const char *name = t->options->link;
    t->end = name ? bench_end(t->bench, name) : t->bench->ends->pdata[0];
    t->speaker = name && !t->end ? bench_speaker(t->bench, name) : NULL;
    if (t->speaker) t->end = t->speaker->end;
    if (t->end && !t->speaker) t->speaker = bench_speaker_to(t->bench, t->end);
    if (t->end) return true;
    GString *names = g_string_new(NULL);
    for (unsigned i = 0; i < t->bench->ends->len; i++)
        g_string_append_printf(names, "%s%s", i ? ", " : "",
                               ((struct end *)t->bench->ends->pdata[i])->name);
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "there is no link '%s'; there are: %s",
                name, names->str);
    g_string_free(names, TRUE);
    return false;
}

/* Whether the sender of text messages can be one. */
static bool find_sender(const struct talk *t, GError **error)
{
    const char *from = t->options->from;
    if (!from || (t->end->modem && bench_is_number(from))) return true;
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                t->end->modem
                    ? "--from '%s': a number like +15550142, or a name of 1..11 characters"
                    : "--from '%s': '%s' has no text messages",
                from, t->end->name);
    return false;
}

/* Everything up to the last answer. */
static void run(struct talk *t, FILE *in)
{
    if (t->options->from) bench_write_as(t->end, t->options->from);
    bench_start(t->bench);
    bench_until_quiet(t->end);
    if (lex_ends_itself(t->end->of)) {
        bench_until_said(t->bench);
        bench_tell_rest(t->end); /* a greeting that no line end ends */
    }
    if (t->options->raw)
        pour(t, in);
    else
        converse(t, in);
    if (!bench_failure(t->bench)) bench_until_said(t->bench);
    talk_tell_ramp(t);
    for (unsigned i = 0; i < t->bench->ends->len; i++) bench_tell_rest(t->bench->ends->pdata[i]);
    fflush(t->out);
}

static void begin(struct talk *t, const struct lexicon *lx)
{
    const struct talk_options *options = t->options;
    if (options->trace) bench_watch(t->bench, trace_sight, options->trace);
    bench_watch(t->bench, options->plain ? talk_print_plain : talk_print, t);
    if (options->plain) return;
    fprintf(t->out,
            "# %s %u, simulated: seconds; > sent, < answered, = what an output does%s%s%s\n",
            lx->name, lx->version, options->bench.loads ? ", : what hangs on it" : "",
            options->wire ? ", } to the modem, { from it" : "",
            options->bench.world ? ", x what became of it, @ what a controller knows" : "");
}

struct talk *talk_new(struct lexicon *lx, const struct image *image,
                      const struct talk_options *options, FILE *out, GError **error)
{
    struct talk *t = g_new0(struct talk, 1);
    *t = (struct talk){.options = options, .out = out, .ramp.step.kind = SIM_SLEEP};
    t->bench = bench_new(lx, image, &options->bench, error);
    if (t->bench && find_link(t, error) && find_sender(t, error)) {
        begin(t, lx);
        return t;
    }
    talk_free(t);
    return NULL;
}

void talk_free(struct talk *t)
{
    bench_free(t->bench);
    g_free(t);
}

struct bench *talk_bench(struct talk *t)
{
    return t->bench;
}

void talk_settle(struct talk *t)
{
    talk_tell_old_ramp(t);
    bench_tell_rests(t->bench);
    fflush(t->out);
}

bool talk(struct lexicon *lx, const struct image *image, const struct talk_options *options,
          FILE *in, FILE *out, GError **error)
{
    struct talk *t = talk_new(lx, image, options, out, error);
    if (!t) return false;
    run(t, in);
    bool ok = !bench_failure(t->bench);
    if (!ok) g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", bench_failure(t->bench));
    talk_free(t);
    return ok;
}
