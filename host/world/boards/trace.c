/* Writes what happened, as JSON Lines.
 * An output's wires come from its kind.
 * It draws nothing: host/draw makes pictures and other forms of it. */
#include "world/boards/trace.h"

#include <errno.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "world/boards/board_states.h"

#define LOOKS_US UINT64_C(16000)   /* between two looks at what moves */
#define RESTS_US UINT64_C(1000000) /* the same where nothing did at the last one */

struct trace {
    const struct lexicon *lx;
    FILE *json;
    const struct world *world; /* NULL: no states are wanted */
    struct states *states;
    uint64_t looked_us; /* the last look */
    bool lively;        /* something happened then, or since */
    struct {
        char *link; /* NULL: none */
        uint64_t from_us, to_us;
        GString *bytes;
    } run; /* bytes that came one behind the other */
};

/* ---- JSON Lines ---- */

static void put_line(const struct trace *t, json_t *line)
{
    json_dumpf(line, t->json, JSON_COMPACT);
    fputc('\n', t->json);
    json_decref(line);
}

/* ---- what the lanes of a picture are called ---- */

/* As later lines call a change of it. */
static const char *const wire_words[] = {[LEX_WIRE_PIN] = "pin",
                                         [LEX_WIRE_DUTY] = "duty",
                                         [LEX_WIRE_PULSE] = "pulse",
                                         [LEX_WIRE_TONE] = "tone",
                                         [LEX_WIRE_STEPS] = "steps"};

static void put_lane(json_t *lanes, const char *kind, const char *name, const char *wire,
                     const char *of, unsigned number, bool active_low)
{
    json_array_append_new(lanes, json_pack("{s:s, s:s, s:s, s:s, s:i, s:b}", "kind", kind, "name",
                                           name, "wire", wire, "of", of, "number", (int)number,
                                           "active_low", active_low));
}

static void put_drive(json_t *lanes, const struct lex_output *out, const struct lex_drive *d,
                      const char *side)
{
    put_lane(lanes, lex_output_kinds[out->kind], out->name, side, wire_words[LEX_WIRE_DUTY],
             d->channel, false);
    json_t *lane = json_array_get(lanes, json_array_size(lanes) - 1);
    if (d->direction != LEX_NO_PIN)
        json_object_set_new(lane, "direction", json_integer(d->direction));
    if (d->other != LEX_NO_PIN) json_object_set_new(lane, "back", json_integer(d->other));
    json_object_set_new(lane, "reversed", json_boolean(d->reversed));
}

/* A motor has one lane for all its wires. */
static void put_output(json_t *lanes, const struct lex_output *out)
{
    struct lex_wire wires[LEX_WIRES_MOST];
    const struct lex_drive *last = NULL;
    unsigned n = lex_kind_of(out)->wires(out, wires);
    for (unsigned i = 0; i < n; i++) {
        const struct lex_wire *wire = &wires[i];
        if (!wire->drive)
            put_lane(lanes, lex_output_kinds[out->kind], out->name, wire->does,
                     wire_words[wire->is], wire->number, wire->active_low);
        else if (wire->drive != last)
            put_drive(lanes, out, wire->drive, wire->side);
        last = wire->drive;
    }
}

/* The first line: which pins and channels are what. */
static void put_begin(const struct trace *t)
{
    json_t *links = json_array(), *outputs = json_array(), *inputs = json_array();
    for (unsigned i = 0; i < t->lx->links->len; i++) {
        const struct lex_link *link = t->lx->links->pdata[i];
        char format[LEX_FORMAT_TEXT];
        lex_format_text(&link->format, format);
        json_t *is = json_pack("{s:s, s:s}", "name", link->name, "medium", lex_media[link->medium]);
        if (link->baud)
            json_object_update_new(
                is, json_pack("{s:i, s:s}", "baud", (int)link->baud, "format", format));
        json_array_append_new(links, is);
    }
    for (unsigned i = 0; i < t->lx->outputs->len; i++)
        put_output(outputs, t->lx->outputs->pdata[i]);
    for (unsigned i = 0; i < t->lx->inputs->len; i++) {
        const struct lex_input *in = t->lx->inputs->pdata[i];
        put_lane(inputs, "input", in->name, "", "pin", in->pin, in->active_low);
    }
    put_line(t, json_pack("{s:i, s:s, s:s, s:o, s:o, s:o}", "t_us", 0, "what", "begin", "lexicon",
                          t->lx->name, "links", links, "outputs", outputs, "inputs", inputs));
}

static void put_text(const struct trace *t, uint64_t now_us, const char *what,
                     const struct sight *sight)
{
    char *text = lex_visible(sight->text, sight->count);
    put_line(t, json_pack("{s:I, s:s, s:s, s:s, s:s*}", "t_us", (json_int_t)now_us, "what", what,
                          "name", sight->name, "text", text, "number", sight->number));
    g_free(text);
}

/* ---- bytes that reach a board ---- */

static void put_run(struct trace *t)
{
    if (!t->run.link) return;
    char *text = lex_visible(t->run.bytes->str, t->run.bytes->len);
    put_line(t, json_pack("{s:I, s:s, s:s, s:s, s:I}", "t_us", (json_int_t)t->run.from_us, "what",
                          "heard", "name", t->run.link, "text", text, "us",
                          (json_int_t)(t->run.to_us - t->run.from_us)));
    g_string_truncate(t->run.bytes, 0);
    g_clear_pointer(&t->run.link, g_free);
    g_free(text);
}

/* A run goes on as long as no byte is missing, with one byte's time to spare for its clock. */
static void put_heard(struct trace *t, uint64_t now_us, const struct sight *sight)
{
    const struct serial *serial = sight->end->serial;
    uint64_t byte_us =
        serial ? lex_format_bits(&serial->is.format) * UINT64_C(1000000) / serial->is.baud : 0;
    bool packet = sight->event.kind == SIM_PACKET_IN;
    if (g_strcmp0(t->run.link, sight->name) != 0 || packet ||
        now_us > t->run.to_us + 3 * byte_us / 2)
        put_run(t);
    if (sight->event.kind == SIM_FAULT) {
        put_run(t);
        put_text(t, now_us, "noise", sight);
        return;
    }
    if (!t->run.link) {
        t->run.from_us = now_us;
        t->run.link = g_strdup(sight->name);
    }
    t->run.to_us = now_us;
    g_string_append_len(t->run.bytes, sight->text, (gssize)sight->count);
    if (packet) put_run(t);
}

void trace_bytes(struct trace *t, struct bench *bench)
{
    if (!t || t->run.bytes) return;
    t->run.bytes = g_string_new(NULL);
    bench_hears(bench);
}

static void put_event(const struct trace *t, uint64_t now_us, const struct board *board,
                      struct sim_event event)
{
    static const struct {
        const char *what, *which, *value;
    } kinds[] = {
        [SIM_PIN_IN] = {"input", "pin", "level"}, [SIM_PIN] = {"pin", "pin", "level"},
        [SIM_DUTY] = {"duty", "channel", "duty"}, [SIM_PULSE] = {"pulse", "channel", "us"},
        [SIM_TONE] = {"tone", "channel", "hz"},   [SIM_STEPS] = {"steps", "channel", "hz"}};
    if (event.kind >= G_N_ELEMENTS(kinds) || !kinds[event.kind].what) return;
    json_t *line =
        json_pack("{s:I, s:s}", "t_us", (json_int_t)now_us, "what", kinds[event.kind].what);
    if (*board->name) json_object_set_new(line, "device", json_string(board->name));
    json_object_set_new(line, kinds[event.kind].which, json_integer(event.index));
    json_object_set_new(line, kinds[event.kind].value, json_integer(event.value));
    if (event.kind == SIM_STEPS) json_object_set_new(line, "count", json_integer(event.low));
    put_line(t, line);
}

const char *trace_word(const struct sight *sight)
{
    static const char *const words[] = {
        [SIGHT_SAID] = "said",    [SIGHT_ANSWERED] = "answered", [SIGHT_KNOWN] = "known",
        [SIGHT_AWAY] = "away",    [SIGHT_UNKNOWN] = "unknown",   [SIGHT_LOAD] = "load",
        [SIGHT_LAMP] = "lamp",    [SIGHT_HANDSET] = "handset",   [SIGHT_BRIDGE] = "bridge",
        [SIGHT_LOST] = "dropped", [SIGHT_RESET] = "reset",       [SIGHT_WIRE] = "modem",
        [SIGHT_BUSY] = "busy"};
    if (sight->kind == SIGHT_AIR) return radio_words[sight->air];
    if (sight->kind == SIGHT_WIRE && sight->own) return "to modem";
    return sight->kind < G_N_ELEMENTS(words) ? words[sight->kind] : NULL;
}

/* ---- states ---- */

void trace_put(struct trace *t, uint64_t now_us, const char *what, json_t *more)
{
    json_t *line = json_pack("{s:I, s:s}", "t_us", (json_int_t)now_us, "what", what);
    json_object_update(line, more);
    json_decref(more);
    if (t) put_line(t, line);
    if (!t) json_decref(line);
}

static void look(struct trace *t, bool all)
{
    const uint64_t now = t->world->now_us;
    json_t *changed = states_now(t->states, all);
    bool moves = json_object_size(changed) > 0;
    t->lively = moves;
    t->looked_us = now;
    json_t *more = json_pack("{s:o}", "states", changed);
    if (moves)
        trace_put(t, now, "states", more);
    else
        json_decref(more);
}

void trace_states(struct trace *t, const struct bench *bench)
{
    if (!t || t->world) return;
    t->world = bench->world;
    t->states = states_new(bench);
    trace_put(t, bench->world->now_us, "board", states_parts(bench));
    look(t, true);
}

void trace_look(struct trace *t)
{
    if (!t || !t->world) return;
    if (t->world->now_us - t->looked_us >= (t->lively ? LOOKS_US : RESTS_US)) look(t, false);
}

void trace_last_look(struct trace *t)
{
    if (t && t->world) look(t, false);
}

void trace_sight(void *user, const struct sight *sight)
{
    struct trace *t = user;
    uint64_t now = sight->board->bench->world->now_us;
    const char *word = trace_word(sight);
    if (sight->kind == SIGHT_HEARD) {
        if (t->run.bytes) put_heard(t, now, sight);
        return;
    }
    if (word || sight->kind == SIGHT_OUT || sight->kind == SIGHT_IN) put_run(t);
    if (sight->kind == SIGHT_OUT || sight->kind == SIGHT_IN)
        put_event(t, now, sight->board, sight->event);
    else if (word)
        put_text(t, now, word, sight);
    t->lively = true;
    trace_look(t);
}

/* ---- begin and end ---- */

bool trace_flush(struct trace *t)
{
    return !fflush(t->json) && !ferror(t->json);
}

uint64_t trace_size(const struct trace *t)
{
    off_t size = ftello(t->json);
    return size < 0 ? 0 : (uint64_t)size;
}

struct trace *trace_begin(const struct lexicon *lx, const char *file, GError **error)
{
    FILE *json = fopen(file, "w");
    if (!json) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", file, g_strerror(errno));
        return NULL;
    }
    struct trace *t = g_new0(struct trace, 1);
    t->lx = lx;
    t->json = json;
    put_begin(t);
    return t;
}

bool trace_end(struct trace *t, GError **error)
{
    if (!t) return true;
    states_free(t->states);
    put_run(t);
    if (t->run.bytes) g_string_free(t->run.bytes, TRUE);
    bool ok = !ferror(t->json);
    ok = !fclose(t->json) && ok;
    g_free(t);
    if (!ok)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "the trace could not be written");
    return ok;
}
