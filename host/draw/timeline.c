/* Reads a trace, JSON Lines, into lanes and points in time.
 * A line that is cut or wrong is counted and left out; the rest is used.
 * It draws nothing and knows no lexicon. */
#include "draw/timeline.h"

#include "files/files.h"

#include <jansson.h>
#include <string.h>

#define BYTES_MOST (512u * 1024 * 1024)

static void clear_point(void *p)
{
    g_free(((struct point *)p)->text);
}

static void clear_line(void *p)
{
    struct happening_line *line = p;
    g_free(line->what);
    g_free(line->name);
    g_free(line->text);
    g_free(line->shown);
}

static void lane_free(void *p)
{
    struct lane *lane = p;
    g_free(lane->name);
    g_free(lane->of);
    g_array_free(lane->points, TRUE);
    g_free(lane);
}

static struct lane *add_lane(struct timeline *t, enum lane_kind kind, char *name, const char *of,
                             int number)
{
    struct lane *lane = g_new0(struct lane, 1);
    *lane = (struct lane){.name = name,
                          .kind = kind,
                          .of = g_strdup(of),
                          .number = number,
                          .direction = -1,
                          .back = -1,
                          .high = 1,
                          .points = g_array_new(FALSE, TRUE, sizeof(struct point))};
    g_array_set_clear_func(lane->points, clear_point);
    g_ptr_array_add(t->lanes, lane);
    return lane;
}

static void add_point(struct lane *lane, uint64_t us, double value, const char *text,
                      enum point_mark mark)
{
    struct point point = {us, value, g_strdup(text), mark};
    if (lane->kind == LANE_NUMBER && !lane->points->len) lane->low = lane->high = value;
    g_array_append_val(lane->points, point);
    lane->low = MIN(lane->low, value);
    lane->high = MAX(lane->high, value);
}

static const char *text_of(const json_t *line, const char *name)
{
    const char *text = json_string_value(json_object_get(line, name));
    return text ? text : "";
}

static int number_of(const json_t *line, const char *name)
{
    const json_t *number = json_object_get(line, name);
    json_int_t value = json_integer_value(number);
    return !number || value < 0 || value > 65535 ? -1 : (int)value;
}

/* What a pin or channel shows: the member of a change, its unit and the form of its lane. The last
 * one is none of them. */
static const struct wire {
    const char *what, *member, *unit;
    enum lane_kind lane;
} wire_sorts[] = {{"pin", "level", NULL, LANE_SWITCH}, {"input", "level", NULL, LANE_SWITCH},
                  {"duty", "duty", NULL, LANE_LEVEL},  {"pulse", "us", "us", LANE_NUMBER},
                  {"tone", "hz", "Hz", LANE_NUMBER},   {"steps", "hz", "Hz", LANE_NUMBER},
                  {"", NULL, NULL, LANE_LEVEL}};

static const struct wire *wire_named(const char *what)
{
    const struct wire *sort = wire_sorts;
    while (sort->member && strcmp(sort->what, what) != 0) sort++;
    return sort;
}

/* ---- the first line ---- */

static void begin_lanes(struct timeline *t, const json_t *all, bool input)
{
    for (size_t i = 0; i < json_array_size(all); i++) {
        const json_t *one = json_array_get(all, i);
        const struct wire *sort = wire_named(text_of(one, "of"));
        const char *wire = text_of(one, "wire");
        struct lane *lane = add_lane(
            t, sort->lane, g_strdup_printf("%s%s%s", text_of(one, "name"), *wire ? " " : "", wire),
            sort->what, number_of(one, "number"));
        lane->input = input;
        lane->active_low = json_is_true(json_object_get(one, "active_low"));
        lane->reversed = json_is_true(json_object_get(one, "reversed"));
        lane->direction = number_of(one, "direction");
        lane->back = number_of(one, "back");
    }
}

static void begin(struct timeline *t, const json_t *line)
{
    const json_t *links = json_object_get(line, "links");
    t->lexicon = g_strdup(text_of(line, "lexicon"));
    for (size_t i = 0; i < json_array_size(links); i++)
        add_lane(t, LANE_LINK, g_strdup(text_of(json_array_get(links, i), "name")), "link", -1);
    begin_lanes(t, json_object_get(line, "inputs"), true);
    begin_lanes(t, json_object_get(line, "outputs"), false);
}

/* ---- what happens ---- */

static struct lane *lane_called(struct timeline *t, const char *name, enum lane_kind kind)
{
    for (unsigned i = 0; i < t->lanes->len; i++) {
        struct lane *lane = t->lanes->pdata[i];
        if (lane->kind == kind && !strcmp(lane->name, name)) return lane;
    }
    return add_lane(t, kind, g_strdup(name), kind == LANE_LINK ? "link" : "notes", -1);
}

static void text_happens(struct timeline *t, uint64_t us, const char *what, const json_t *line)
{
    static const struct {
        const char *what;
        enum point_mark mark;
        bool link;
    } kinds[] = {{"said", POINT_SAID, true},        {"answered", POINT_ANSWERED, true},
                 {"sent", POINT_SAID, true},        {"lost", POINT_LOST, true},
                 {"collided", POINT_LOST, true},    {"dropped", POINT_LOST, true},
                 {"not sent", POINT_LOST, true},    {"damaged", POINT_DAMAGED, true},
                 {"duplicated", POINT_TWICE, true}, {"delayed", POINT_LATE, true},
                 {"known", POINT_ANSWERED, false},  {"unknown", POINT_LOST, false},
                 {"away", POINT_SAID, false},       {"load", POINT_TOLD, false},
                 {"lamp", POINT_TOLD, false},       {"handset", POINT_TOLD, false},
                 {"bridge", POINT_TOLD, true},      {"reset", POINT_TOLD, false},
                 {"busy", POINT_LOST, false}};
    const char *name = text_of(line, "name"), *text = text_of(line, "text");
    for (unsigned i = 0; i < G_N_ELEMENTS(kinds); i++) {
        if (strcmp(kinds[i].what, what) != 0) continue;
        char *whole = g_strdup_printf("%s%s", strcmp(what, "reset") ? "" : "reset: ", text);
        struct lane *lane = lane_called(t, name, kinds[i].link ? LANE_LINK : LANE_NOTES);
        const struct point *last =
            lane->points->len ? &g_array_index(lane->points, struct point, lane->points->len - 1)
                              : NULL;
        /* a device's own packet begins to be sent as it answers */
        bool again =
            !strcmp(what, "sent") && last && last->us == us && last->mark == POINT_ANSWERED;
        if (!again) add_point(lane, us, 0, whole, kinds[i].mark);
        g_free(whole);
    }
}

/* A motor's level: which way, and how much. */
static void drive(struct lane *lane, uint64_t us)
{
    double value = lane->duty - lane->other;
    if (lane->direction >= 0 && (lane->backwards > 0) != lane->reversed) value = -value;
    add_point(lane, us, value, NULL, POINT_TOLD);
}

static void level_happens(struct lane *lane, uint64_t us, const char *what, int number,
                          double value)
{
    char text[32];
    if (!strcmp(what, "duty") && (number == lane->number || number == lane->back)) {
        *(number == lane->number ? &lane->duty : &lane->other) =
            lane->active_low ? 1 - value / 65535 : value / 65535;
        drive(lane, us);
    } else if (!strcmp(what, "pin") && number == lane->direction) {
        lane->backwards = value;
        if (lane->duty > 0) drive(lane, us);
    } else if (lane->kind == LANE_NUMBER && !strcmp(what, lane->of) && number == lane->number) {
        g_snprintf(text, sizeof text, "%.0f %s", value, wire_named(what)->unit);
        add_point(lane, us, value, text, POINT_TOLD);
    }
}

/* The value that the lane has by now, in words. Owned by the caller. */
static char *value_text(const struct lane *lane)
{
    const struct point *last =
        lane->points->len ? &g_array_index(lane->points, struct point, lane->points->len - 1)
                          : NULL;
    if (!last) return NULL;
    if (last->text) return g_strdup(last->text);
    if (lane->kind == LANE_SWITCH) return g_strdup(last->value > 0 ? "on" : "off");
    return g_strdup_printf("%.0f %%", last->value * 100);
}

static void add_line(struct timeline *t, uint64_t us, const char *what, const char *name,
                     const char *text, char *shown)
{
    struct happening_line one = {us, g_strdup(what), g_strdup(name), g_strdup(text), shown};
    g_array_append_val(t->lines, one);
}

/* The lane of a pin or channel that changes; a new one if the trace does not describe it. */
static struct lane *lane_of(struct timeline *t, const char *what, int number, bool pin)
{
    bool input = !strcmp(what, "input");
    for (unsigned i = 0; i < t->lanes->len; i++) {
        struct lane *lane = t->lanes->pdata[i];
        if (pin && lane->kind == LANE_SWITCH && lane->number == number && lane->input == input)
            return lane;
        if (!pin && (lane->number == number || lane->back == number) && !strcmp(lane->of, what))
            return lane;
        if (pin && !input && lane->direction == number) return lane;
    }
    if (t->lexicon) return NULL;
    struct lane *lane = add_lane(t, wire_named(what)->lane,
                                 g_strdup_printf("%s %d", pin ? "pin" : "channel", number),
                                 pin ? "pin" : what, number);
    lane->input = input;
    return lane;
}

/* False: it has no value that there is. */
static bool value_happens(struct timeline *t, uint64_t us, const char *what, const json_t *line)
{
    char raw[16], name[24];
    const char *member = wire_named(what)->member;
    if (!member || *text_of(line, "device")) return true; /* another one's, or not known here */
    bool pin = !strcmp(member, "level");
    int number = number_of(line, pin ? "pin" : "channel"), value = number_of(line, member);
    if (number < 0 || number > 255 || value < 0) return false;
    struct lane *lane = lane_of(t, what, number, pin);
    if (lane && pin && lane->kind == LANE_SWITCH)
        add_point(lane, us, (value > 0) != lane->active_low, NULL, POINT_TOLD);
    else if (lane)
        level_happens(lane, us, what, number, value);
    g_snprintf(raw, sizeof raw, "%d", value);
    g_snprintf(name, sizeof name, "%s %d", pin ? "pin" : "channel", number);
    bool wire = lane && pin && lane->kind != LANE_SWITCH; /* which way a motor turns */
    char *called =
        wire ? g_strconcat(lane->name, " direction", NULL) : g_strdup(lane ? lane->name : name);
    add_line(t, us, what, called, raw, lane && !wire ? value_text(lane) : NULL);
    g_free(called);
    return true;
}

static bool take_line(struct timeline *t, const char *text, size_t length)
{
    json_t *line = json_loadb(text, length, 0, NULL);
    const json_t *at = json_object_get(line, "t_us");
    const char *what = text_of(line, "what");
    bool ok = json_is_integer(at) && json_integer_value(at) >= 0 && *what;
    if (ok) {
        uint64_t us = (uint64_t)json_integer_value(at);
        t->end_us = MAX(t->end_us, us);
        if (!strcmp(what, "begin")) {
            if (!t->lexicon) begin(t, line);
        } else if (json_object_get(line, "text")) {
            text_happens(t, us, what, line);
            add_line(t, us, what, text_of(line, "name"), text_of(line, "text"), NULL);
        } else {
            ok = value_happens(t, us, what, line);
        }
    }
    if (line) json_decref(line);
    return ok;
}

/* Takes the lines of a trace; the number of the one that is none, 0: all are. The last one may have
 * been cut, where who wrote it was ended. */
static unsigned take_lines(struct timeline *t, const char *text, size_t size)
{
    unsigned number = 0;
    for (const char *at = text; at < text + size;) {
        const char *end = memchr(at, '\n', (size_t)(text + size - at));
        size_t length = (size_t)((end ? end : text + size) - at);
        number++;
        if (length && !take_line(t, at, length)) {
            if (end || !t->lines->len) return number;
            t->cut = number;
        }
        at += length + 1;
    }
    return 0;
}

struct timeline *timeline_read(const char *file, GError **error)
{
    char *text;
    size_t size;
    if (!files_read(file, BYTES_MOST, &text, &size, error)) return NULL;
    struct timeline *t = g_new0(struct timeline, 1);
    t->lanes = g_ptr_array_new_with_free_func(lane_free);
    t->lines = g_array_new(FALSE, TRUE, sizeof(struct happening_line));
    g_array_set_clear_func(t->lines, clear_line);
    unsigned bad = size > BYTES_MOST ? 0 : take_lines(t, text, size);
    g_free(text);
    if (size > BYTES_MOST)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "%s: more than %u bytes, which is the most: trace a shorter time", file,
                    BYTES_MOST);
    else if (bad)
        g_set_error(
            error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
            "%s, line %u: expected a line of a trace, like "
            "{\"t_us\":1022690,\"what\":\"said\",\"name\":\"bench\",\"text\":\"gate open\"}",
            file, bad);
    else if (!t->lines->len)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s: nothing happens in it", file);
    else
        return t;
    timeline_free(t);
    return NULL;
}

void timeline_free(struct timeline *t)
{
    if (!t) return;
    g_ptr_array_free(t->lanes, TRUE);
    g_array_free(t->lines, TRUE);
    g_free(t->lexicon);
    g_free(t);
}
