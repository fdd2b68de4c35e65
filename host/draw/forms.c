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
        if (!has_values(lane)) continue;
        char *name = g_strdelimit(g_strdup(lane->name), " ", '_');
        g_string_append_printf(out, "$var %s %s %s $end\n",
                               lane->kind == LANE_SWITCH ? "wire 1" : "real 64", code_of(i), name);
        g_free(name);
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
        double value = g_array_index(lane->points, struct point, c->point).value;
        char number[G_ASCII_DTOSTR_BUF_SIZE];
        if (c->us != told) g_string_append_printf(out, "#%" G_GUINT64_FORMAT "\n", c->us);
        told = c->us;
        if (lane->kind == LANE_SWITCH)
            g_string_append_printf(out, "%d%s\n", (value > 0) != lane->active_low,
                                   code_of(c->lane)); /* the pin's level, as it is measured */
        else
            g_string_append_printf(out, "r%s %s\n",
                                   g_ascii_formatd(number, sizeof number, "%.6g", value),
                                   code_of(c->lane));
    }
    g_array_free(changes, TRUE);
    return g_string_free(out, FALSE);
}
