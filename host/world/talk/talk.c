/* A conversation at a terminal or from a pipe: lines in, sights out.
 * A line begins with a mark for the tool (talk_tool.c), or goes to the device.
 * What is printed is in talk_print.c. */
#include "world/talk/talk_parts.h"

#include <string.h>

#include "lexicon/answers.h"

#define INPUT_MOST  (1024u * 1024)    /* bytes of a line, or of all with --raw */
#define GREETING_US UINT64_C(3000000) /* so long is waited for a board's greeting */

/* ---- the sender ---- */

void talk_wait_for(struct talk *t, struct end *end)
{
    if (!t->options->live) bench_until_quiet(end);
}

void talk_mistyped(struct talk *t, const char *line, const char *wanted)
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
        talk_mistyped(t, line, "time goes by itself here");
    else if (lex_value_said(&any, line + 2, &ms))
        bench_pass(t->bench, (uint64_t)ms * 1000);
    else
        talk_mistyped(t, line,
                      "expected a time up to 24h, like ~ 500ms, ~ 2s, ~ 5min; nothing was sent");
    return true;
}

/* A line as it is typed at a terminal: with what ends it, or key by key. */
static void say(struct talk *t, const char *line, size_t count)
{
    struct end *end = t->end;
    if (t->speaker) {
        if (speaker_say(t->speaker, line)) {
            if (!t->options->live) bench_until_known(t->speaker);
            talk_wait_for(t, end);
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
            talk_wait_for(t, end);
            return;
        }
        bench_say(end, line + i, 1);
        talk_wait_for(t, end);
    }
    if (keys) return;
    bench_say(end, line, count);
    talk_wait_for(t, end);
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
    if (command && !talk_act(t, line + 2)) {
        char *near = talk_meant(t, line + 2);
        char *wanted = g_strconcat(
            t->options->where ? "inputs and pins of a real board are moved by hand"
            : t->options->bench.firmware
                ? "no input, link, button or slider moves by that, and no load breaks; events "
                  "and notes are the firmware's"
                : "no input, link, button or slider moves by that, no load breaks, and it "
                  "is no event or note of the lexicon's",
            near, *near ? "" : "; \"! help\" lists what there is", NULL);
        talk_mistyped(t, line, wanted);
        g_free(wanted);
        g_free(near);
    } else if (!command && !let_pass(t, line))
        say(t, line, count);
}

static void converse(struct talk *t, FILE *in)
{
    GString *typed = g_string_new(NULL);
    while (!bench_failure(t->bench)) {
        if (!next_line(in, typed)) break;
        const char *line = typed->str;
        size_t count = typed->len;
        if (count == INPUT_MOST) {
            talk_mistyped(t, "the input", "a line of it has more than 1 MB: it ends here");
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
        talk_mistyped(t, "the input", "it has more than 1 MB: the rest is not sent");
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

/* A real board that was reset has a loader, perhaps, before it says anything. */
static void wait_for_greeting(struct talk *t)
{
    uint64_t now = t->bench->world->now_us, until = now + GREETING_US;
    if (!t->options->bench.outside || !t->options->bench.outside->reset) return;
    t->end->last_us = now;
    while (t->end->last_us == now && t->bench->world->now_us < until && !bench_failure(t->bench))
        bench_pass(t->bench, 10000);
}

/* Everything up to the last answer. */
static void run(struct talk *t, FILE *in)
{
    if (t->options->where) outside_paces(t->end->board->device);
    talk_start(t);
    wait_for_greeting(t);
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

/* A board that says it is another one's. */
static void tell_identity(void *user, const struct sight *sight)
{
    struct talk *t = user;
    if (sight->kind != SIGHT_ANSWERED) return;
    char *text = g_strndup(sight->text, sight->count);
    char *is = answer_identity(sight->board->lx, t->options->fingerprint, text);
    if (is && *is) {
        fflush(t->out);
        g_printerr("%s: %s\n", g_get_prgname(), is);
        if (t->options->mistyped) *t->options->mistyped = true;
    }
    g_free(is);
    g_free(text);
}

static void begin(struct talk *t, const struct lexicon *lx)
{
    const struct talk_options *options = t->options;
    if (options->trace) bench_watch(t->bench, trace_sight, options->trace);
    if (options->bytes) trace_bytes(options->trace, t->bench);
    if (options->where) bench_watch(t->bench, tell_identity, t);
    bench_watch(t->bench, options->plain ? talk_print_plain : talk_print, t);
    if (options->plain) return;
    if (options->where && t->end->modem) {
        fprintf(
            t->out,
            "# %s %u, the modem of %s for a real board: seconds; > a message to it, < from it%s\n",
            lx->name, lx->version, t->end->name,
            options->wire ? ", } to the modem, { from it" : "");
        return;
    }
    if (options->where) {
        fprintf(t->out, "# %s %u, the board at %s: seconds; > sent, < answered\n", lx->name,
                lx->version, options->where);
        return;
    }
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
    world_file_free(t->world);
    g_free(t);
}

struct bench *talk_bench(struct talk *t)
{
    return t->bench;
}

struct end *talk_end(struct talk *t)
{
    return t->end;
}

const char *talk_over_name(const struct talk *t)
{
    return t->speaker ? t->speaker->name : t->end->name;
}

void talk_start(struct talk *t)
{
    if (t->options->from) bench_write_as(t->end, t->options->from);
    bench_start(t->bench);
    const struct outside_line *outside = t->options->bench.outside;
    if (outside && outside->reset) device_reset(t->end->board->device, RLX_RESET_PIN);
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
