/* Reversers: two relays that turn a motor one way or the other, up to an end.
 * What a kind of output has of its own, for kind.h.
 * Its behaviour on the chip is in src/drive/reverser.c. */
#include "kinds/shared.h"

#include <string.h>

/* pin P [until INPUT]; or only while ... */
static bool read_way(struct statement *st, struct lex_output *out, struct lex_way *way)
{
    unsigned goes = way == &out->open ? RLX_GOES_FORWARD : RLX_GOES_BACK;
    if (!g_strcmp0(statement_peek(st)->text, "only")) return kind_read_way_only(st, out, goes);
    way->place = statement_peek(st)->place;
    if (kind_is_taken(st, out, &way->placed)) return false;
    if (!statement_take_word(st, "pin")) {
        lex_fault(st->lx, way->place, "expected 'pin' and the relay's pin");
        return false;
    }
    if (!statement_pin(st, &way->pin)) return false;
    if (!statement_take_word(st, "until")) return true;
    way->place = statement_peek(st)->place;
    way->until = statement_name(st, "the input at the end of its way");
    return way->until != NULL;
}

static bool read_open(struct statement *st, void *target)
{
    return read_way(st, target, &((struct lex_output *)target)->open);
}

static bool read_close(struct statement *st, void *target)
{
    return read_way(st, target, &((struct lex_output *)target)->close);
}

static void check(struct lexicon *lx, const struct lex_output *out)
{
    if (!out->open.placed || !out->close.placed)
        lex_fault(lx, out->place, "'%s' needs both relays; write 'open pin N' and 'close pin N'",
                  out->name);
}

static char *slots(const struct lex_output *out)
{
    (void)out;
    return g_strdup("{open|close|stop}");
}

static const struct lex_way *ends(const struct lex_output *out, unsigned place)
{
    return place ? &out->close : &out->open;
}

/* Where it arrives, or does not. */
static bool tells(const struct lex_output *out)
{
    (void)out;
    return true;
}

static unsigned wires(const struct lex_output *out, struct lex_wire *all)
{
    const struct lex_wire both[] = {{.is = LEX_WIRE_PIN,
                                     .number = out->open.pin,
                                     .side = "",
                                     .part = "open",
                                     .does = "opening",
                                     .active_low = out->active_low},
                                    {.is = LEX_WIRE_PIN,
                                     .number = out->close.pin,
                                     .side = "",
                                     .part = "close",
                                     .does = "closing",
                                     .active_low = out->active_low}};
    for (unsigned i = 0; i < G_N_ELEMENTS(both); i++) all[i] = both[i];
    return G_N_ELEMENTS(both);
}

/* The two relays of a reverser. */
static bool put(struct build *b, const struct lex_output *out)
{
    GByteArray *to = b->image->bytes;
    build_need(b, RLX_BIT_REVERSERS);
    build_need(b, RLX_BIT_NUMBER);
    build_need(b, RLX_BIT_WIDE); /* for the time that it waits */
    build_row(b, "the ways of %s", out->name);
    build_put8(to, out->close.pin);
    build_put8(to, build_input(b->lx, out->open.until));
    build_put8(to, build_input(b->lx, out->close.until));
    build_put8(to, out->open.until || out->close.until);
    if (!out->open.until && !out->close.until && out->travel) build_need(b, RLX_BIT_PLACES);
    build_put32(to, out->dead);
    build_put32(to, out->travel);
    return true;
}

static char *wiring(const struct lex_output *out)
{
    const struct lex_way *open = &out->open, *close = &out->close;
    return g_strdup_printf("open pin %u%s%s, close pin %u%s%s", open->pin,
                           open->until ? " until " : "", open->until ? open->until : "", close->pin,
                           close->until ? " until " : "", close->until ? close->until : "");
}

static const char *is_at(const struct lex_driven *driven, const struct lex_output *out)
{
    bool opens = driven->pin[out->open.pin] != out->active_low;
    bool closes = driven->pin[out->close.pin] != out->active_low;
    return opens && closes ? "both" : opens ? "opening" : closes ? "closing" : "stopped";
}

static char *state(const struct lex_driven *driven, const struct lex_output *out)
{
    return g_strdup(is_at(driven, out));
}

static const char *const *classes(const struct lex_output *out)
{
    static const char *const ways[] = {"stopped", "opening", "closing", NULL};
    (void)out;
    return ways;
}

static bool is_safe(const struct lex_driven *driven, const struct lex_output *out)
{
    return !strcmp(is_at(driven, out), "stopped");
}

static unsigned from_safe(const struct lex_output *out, enum lex_wire_is is, unsigned value)
{
    (void)is;
    return (value != 0) != out->active_low;
}

static char *state_at(const struct lex_output *out, unsigned percent)
{
    (void)out;
    return percent ? NULL : g_strdup("stopped");
}

static const struct attribute attributes[] = {{"active", kind_read_active, 0},
                                              {"safe", kind_read_safe, 0},
                                              {"dead", kind_read_dead, 0},
                                              {"travel", kind_read_travel, 0},
                                              {"open", read_open, 0},
                                              {"close", read_close, 0},
                                              {"expires", kind_read_expires, 0},
                                              {"lost", kind_read_lost, 0},
                                              {"only", kind_read_only, 0},
                                              {"by", kind_read_by, 0},
                                              {NULL, NULL, 0}};

const struct lex_kind lex_kind_reverser = {.ways = {"open", "close"},
                                           .call = KIND_CALL_VERB,
                                           .values = 1,
                                           .need = RLX_BIT_REVERSERS,
                                           .waits = true,
                                           .slot = "{open|close|stop}",
                                           .verb = "stop",
                                           .turns = true,
                                           .safe = "stop",
                                           .unsaid = "stand",
                                           .unreached = "standing",
                                           .gentle = "dead 200ms",
                                           .passes = true,
                                           .attributes = attributes,
                                           .read_safe = kind_safe_stop,
                                           .check = check,
                                           .slots = slots,
                                           .tells = tells,
                                           .ends = ends,
                                           .words = {"open", "closed", "late"},
                                           .wires = wires,
                                           .put = put,
                                           .wiring = wiring,
                                           .safe_text = kind_stop_text,
                                           KIND_SEEN()};
