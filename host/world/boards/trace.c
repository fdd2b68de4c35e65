/* Writes what happened: JSON Lines, and a value change dump (IEEE 1364).
 * An output's wires come from its kind.
 * It draws nothing. */
#include "world/boards/trace.h"

#include <errno.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

struct trace {
    const struct lexicon *lx;
    FILE *json, *vcd;
    uint64_t vcd_us; /* the time that was written last */
    bool vcd_begun;
};

/* ---- value change dump ---- */

enum { DUTIES = 256, PULSES = 512, TONES = 768, STEPS = 1024 }; /* pins from 0 on */

/* A short name of its own for each: printable characters from '!' on. */
static const char *vcd_code(unsigned number)
{
    static char code[4];
    code[0] = (char)('!' + number % 94);
    code[1] = (char)('!' + number / 94);
    code[2] = 0;
    return code;
}

static void declare(const struct trace *t, unsigned number, unsigned bits, const char *name,
                    const char *part)
{
    fprintf(t->vcd, "$var %s %u %s %s%s%s $end\n", bits == 1 ? "wire" : "reg", bits,
            vcd_code(number), name, *part ? "_" : "", part);
}

static void declare_output(const struct trace *t, const struct lex_output *out)
{
    static const unsigned from[] = {[LEX_WIRE_PIN] = 0,
                                    [LEX_WIRE_DUTY] = DUTIES,
                                    [LEX_WIRE_PULSE] = PULSES,
                                    [LEX_WIRE_TONE] = TONES,
                                    [LEX_WIRE_STEPS] = STEPS};
    struct lex_wire wires[LEX_WIRES_MOST];
    unsigned n = lex_kind_of(out)->wires(out, wires);
    for (unsigned i = 0; i < n; i++) {
        const struct lex_wire *wire = &wires[i];
        char *name = g_strdup_printf("%s%s%s", out->name, *wire->side ? "_" : "", wire->side);
        declare(t, from[wire->is] + wire->number, wire->is == LEX_WIRE_PIN ? 1 : 16, name,
                wire->part);
        g_free(name);
    }
}

static void begin_vcd(const struct trace *t)
{
    fprintf(t->vcd, "$version Ready Lexicon $end\n$timescale 1 us $end\n$scope module %s $end\n",
            t->lx->name);
    for (unsigned i = 0; i < t->lx->outputs->len; i++) declare_output(t, t->lx->outputs->pdata[i]);
    for (unsigned i = 0; i < t->lx->inputs->len; i++) {
        const struct lex_input *in = t->lx->inputs->pdata[i];
        declare(t, in->pin, 1, in->name, "");
    }
    for (unsigned i = 0; i < t->lx->links->len; i++) {
        const struct lex_link *link = t->lx->links->pdata[i];
        if (link->state_pin != LEX_NO_PIN) declare(t, link->state_pin, 1, link->name, "state");
    }
    fprintf(t->vcd, "$upscope $end\n$enddefinitions $end\n");
}

static void change(struct trace *t, uint64_t now_us, unsigned number, unsigned bits, uint32_t value)
{
    if (!t->vcd) return;
    if (!t->vcd_begun || now_us != t->vcd_us) fprintf(t->vcd, "#%" G_GUINT64_FORMAT "\n", now_us);
    t->vcd_begun = true;
    t->vcd_us = now_us;
    if (bits == 1) {
        fprintf(t->vcd, "%u%s\n", value != 0, vcd_code(number));
        return;
    }
    fputc('b', t->vcd);
    for (unsigned bit = bits; bit--;) fputc('0' + (value >> bit & 1), t->vcd);
    fprintf(t->vcd, " %s\n", vcd_code(number));
}

/* ---- JSON Lines ---- */

static void put_line(const struct trace *t, json_t *line)
{
    if (t->json) {
        json_dumpf(line, t->json, JSON_COMPACT);
        fputc('\n', t->json);
    }
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
        json_array_append_new(
            links, json_pack("{s:s, s:s}", "name", link->name, "medium", lex_media[link->medium]));
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

static void put_text(const struct trace *t, uint64_t now_us, const char *what, const char *name,
                     const char *text, size_t count)
{
    if (!t->json) return;
    GString *shown = g_string_new(NULL);
    for (size_t i = 0; i < count; i++) {
        unsigned char c = (unsigned char)text[i];
        if (c >= ' ' && c <= '~' && c != '\\')
            g_string_append_c(shown, (char)c);
        else
            g_string_append_printf(shown, "\\x%02X", c);
    }
    put_line(t, json_pack("{s:I, s:s, s:s, s:s}", "t_us", (json_int_t)now_us, "what", what, "name",
                          name, "text", shown->str));
    g_string_free(shown, TRUE);
}

static void put_event(struct trace *t, uint64_t now_us, const struct board *board,
                      struct sim_event event)
{
    static const struct {
        const char *what, *which, *value;
        unsigned vcd, bits;
    } kinds[] = {[SIM_PIN_IN] = {"input", "pin", "level", 0, 1},
                 [SIM_PIN] = {"pin", "pin", "level", 0, 1},
                 [SIM_DUTY] = {"duty", "channel", "duty", DUTIES, 16},
                 [SIM_PULSE] = {"pulse", "channel", "us", PULSES, 16},
                 [SIM_TONE] = {"tone", "channel", "hz", TONES, 16},
                 [SIM_STEPS] = {"steps", "channel", "hz", STEPS, 16}};
    if (event.kind >= G_N_ELEMENTS(kinds) || !kinds[event.kind].what) return;
    json_t *line =
        json_pack("{s:I, s:s}", "t_us", (json_int_t)now_us, "what", kinds[event.kind].what);
    if (*board->name) json_object_set_new(line, "device", json_string(board->name));
    json_object_set_new(line, kinds[event.kind].which, json_integer(event.index));
    json_object_set_new(line, kinds[event.kind].value, json_integer(event.value));
    if (event.kind == SIM_STEPS) json_object_set_new(line, "count", json_integer(event.low));
    put_line(t, line);
    if (!*board->name) /* the dump has the first board */
        change(t, now_us, kinds[event.kind].vcd + event.index, kinds[event.kind].bits, event.value);
}

void trace_sight(void *user, const struct sight *sight)
{
    static const char *const words[] = {
        [SIGHT_SAID] = "said",    [SIGHT_ANSWERED] = "answered", [SIGHT_KNOWN] = "known",
        [SIGHT_AWAY] = "away",    [SIGHT_UNKNOWN] = "unknown",   [SIGHT_LOAD] = "load",
        [SIGHT_LAMP] = "lamp",    [SIGHT_HANDSET] = "handset",   [SIGHT_BRIDGE] = "bridge",
        [SIGHT_LOST] = "dropped", [SIGHT_RESET] = "reset",       [SIGHT_WIRE] = "modem",
        [SIGHT_BUSY] = "busy"};
    struct trace *t = user;
    uint64_t now = sight->board->bench->world->now_us;
    const char *word = sight->kind < G_N_ELEMENTS(words) ? words[sight->kind] : NULL;
    if (sight->kind == SIGHT_AIR) word = radio_words[sight->air];
    if (sight->kind == SIGHT_WIRE && sight->own) word = "to modem";
    if (sight->kind == SIGHT_OUT || sight->kind == SIGHT_IN)
        put_event(t, now, sight->board, sight->event);
    else if (word)
        put_text(t, now, word, sight->name, sight->text, sight->count);
}

/* ---- begin and end ---- */

static FILE *begin_file(const char *name, GError **error)
{
    FILE *file = fopen(name, "w");
    if (!file)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", name, g_strerror(errno));
    return file;
}

static bool end_file(FILE *file, GError **error)
{
    if (!file) return true;
    bool ok = !ferror(file);
    ok = !fclose(file) && ok;
    if (!ok && !*error)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "the trace could not be written");
    return ok;
}

struct trace *trace_begin(const struct lexicon *lx, const char *json, const char *vcd,
                          GError **error)
{
    struct trace *t = g_new0(struct trace, 1);
    t->lx = lx;
    if ((json && !(t->json = begin_file(json, error))) ||
        (vcd && !(t->vcd = begin_file(vcd, error)))) {
        if (t->json) fclose(t->json);
        g_free(t);
        return NULL;
    }
    if (t->vcd) begin_vcd(t);
    if (t->json) put_begin(t);
    return t;
}

bool trace_end(struct trace *t, GError **error)
{
    GError *own = NULL;
    if (!t) return true;
    bool json = end_file(t->json, &own), vcd = end_file(t->vcd, &own);
    if (own) g_propagate_error(error, own);
    g_free(t);
    return json && vcd;
}
