/* A timeline as lines, as comma-separated values (RFC 4180), and as a value change dump (IEEE
 * 1364).
 * Each form walks through the points in the order of time.
 * It reads no trace. */
#include <string.h>

#include "draw/timeline.h"

char *timeline_text(const struct timeline *t, uint64_t from_us, uint64_t to_us)
{
    GString *out = g_string_new(NULL);
    for (unsigned i = 0; i < t->lines->len; i++) {
        const struct happening_line *line = &g_array_index(t->lines, struct happening_line, i);
        if (line->us < from_us || line->us > to_us) continue;
        g_string_append_printf(out, "%4" G_GUINT64_FORMAT ".%06u s  %-10s %-14s %s\n",
                               line->us / 1000000, (unsigned)(line->us % 1000000), line->what,
                               line->name, line->shown ? line->shown : line->text);
    }
    return g_string_free(out, FALSE);
}

static void put_field(GString *out, const char *text, const char *behind)
{
    g_string_append_c(out, '"');
    for (; *text; text++) g_string_append_printf(out, *text == '"' ? "\"%c" : "%c", *text);
    g_string_append_printf(out, "\"%s", behind);
}

char *timeline_csv(const struct timeline *t, uint64_t from_us, uint64_t to_us)
{
    GString *out = g_string_new("t_us,what,name,value\r\n");
    for (unsigned i = 0; i < t->lines->len; i++) {
        const struct happening_line *line = &g_array_index(t->lines, struct happening_line, i);
        if (line->us < from_us || line->us > to_us) continue;
        g_string_append_printf(out, "%" G_GUINT64_FORMAT ",", line->us);
        put_field(out, line->what, ",");
        put_field(out, line->name, ",");
        put_field(out, line->text, "\r\n");
    }
    return g_string_free(out, FALSE);
}

/* ---- value change dump ---- */

static const char *code_of(unsigned number)
{
    static char code[4];
    code[0] = (char)('!' + number % 94);
    code[1] = (char)('!' + number / 94 % 94);
    code[2] = (char)('!' + number / 94 / 94);
    return code;
}

static bool has_values(const struct lane *lane)
{
    return lane->kind == LANE_SWITCH || lane->kind == LANE_LEVEL || lane->kind == LANE_NUMBER;
}

/* A link's frames are as wide as the longest one: a viewer shows such a value as text. */
static const struct {
    const char *name;
    enum point_mark mark;
} directions[] = {{"said", POINT_SAID}, {"answered", POINT_ANSWERED}, {"lost", POINT_LOST}};
#define DIRECTIONS G_N_ELEMENTS(directions)
#define TEXT_MOST  255u

static unsigned width_of(const struct lane *lane, enum point_mark mark)
{
    size_t most = 0;
    for (unsigned k = 0; k < lane->points->len; k++) {
        const struct point *point = &g_array_index(lane->points, struct point, k);
        if (point->mark == mark && point->text) most = MAX(most, strlen(point->text));
    }
    return 8 * (unsigned)MIN(most, TEXT_MOST);
}

/* Variables: DIRECTIONS numbers for each lane. */
static void declare(GString *out, const struct lane *lane, unsigned number)
{
    char *name = g_strdelimit(g_strdup(lane->name), " ", '_');
    if (has_values(lane))
        g_string_append_printf(out, "$var %s %s %s $end\n",
                               lane->kind == LANE_SWITCH ? "wire 1" : "real 64", code_of(number),
                               name);
    for (unsigned i = 0; lane->kind == LANE_LINK && i < DIRECTIONS; i++) {
        unsigned width = width_of(lane, directions[i].mark);
        if (width)
            g_string_append_printf(out, "$var reg %u %s %s_%s $end\n", width, code_of(number + i),
                                   name, directions[i].name);
    }
    g_free(name);
}

static void put_text(GString *out, const char *text, const char *code)
{
    g_string_append_c(out, 'b');
    for (unsigned i = 0; i < TEXT_MOST && text[i]; i++)
        for (unsigned bit = 8; bit--;)
            g_string_append_c(out, (char)('0' + ((unsigned char)text[i] >> bit & 1)));
    g_string_append_printf(out, " %s\n", code);
}

static void put_change(GString *out, const struct lane *lane, const struct point *point,
                       unsigned number)
{
    char real[G_ASCII_DTOSTR_BUF_SIZE];
    if (lane->kind == LANE_SWITCH) /* the pin's level, as it is measured */
        g_string_append_printf(out, "%d%s\n", (point->value > 0) != lane->active_low,
                               code_of(number));
    else if (has_values(lane))
        g_string_append_printf(out, "r%s %s\n",
                               g_ascii_formatd(real, sizeof real, "%.6g", point->value),
                               code_of(number));
    for (unsigned i = 0; lane->kind == LANE_LINK && i < DIRECTIONS; i++)
        if (directions[i].mark == point->mark && point->text && *point->text)
            put_text(out, point->text, code_of(number + i));
}

/* Points of all lanes in the order of their times. */
struct change {
    uint64_t us;
    unsigned lane, point;
};

static int by_time(const void *a, const void *b)
{
    const struct change *x = a, *y = b;
    if (x->us != y->us) return x->us < y->us ? -1 : 1;
    if (x->lane != y->lane) return x->lane < y->lane ? -1 : 1;
    return x->point < y->point ? -1 : x->point > y->point;
}

char *timeline_vcd(const struct timeline *t, uint64_t from_us, uint64_t to_us)
{
    GString *out = g_string_new("$version Ready Lexicon $end\n$timescale 1 us $end\n");
    GArray *changes = g_array_new(FALSE, FALSE, sizeof(struct change));
    g_string_append_printf(out, "$scope module %s $end\n",
                           t->lexicon && *t->lexicon ? t->lexicon : "trace");
    for (unsigned i = 0; i < t->lanes->len; i++) {
        const struct lane *lane = t->lanes->pdata[i];
        declare(out, lane, i * DIRECTIONS);
        if (!has_values(lane) && lane->kind != LANE_LINK) continue;
        for (unsigned k = 0; k < lane->points->len; k++) {
            struct change change = {g_array_index(lane->points, struct point, k).us, i, k};
            if (change.us >= from_us && change.us <= to_us) g_array_append_val(changes, change);
        }
    }
    g_string_append(out, "$upscope $end\n$enddefinitions $end\n");
    g_array_sort(changes, by_time);
    uint64_t told = UINT64_MAX;
    for (unsigned i = 0; i < changes->len; i++) {
        const struct change *c = &g_array_index(changes, struct change, i);
        const struct lane *lane = t->lanes->pdata[c->lane];
        if (c->us != told) g_string_append_printf(out, "#%" G_GUINT64_FORMAT "\n", c->us);
        told = c->us;
        put_change(out, lane, &g_array_index(lane->points, struct point, c->point),
                   c->lane * DIRECTIONS);
    }
    g_array_free(changes, TRUE);
    return g_string_free(out, FALSE);
}
