/* A timeline as a picture: a lane for each link, input and output over one axis of time.
 * Cairo draws PNG or SVG; labels that do not fit go to the next row.
 * It decides nothing about the lanes' contents. */
#include <cairo-svg.h>
#include <cairo.h>
#include <math.h>
#include <string.h>

#include "draw/timeline.h"
#include "files/files.h"

#define WIDTH      1280.0
#define LEFT       150.0 /* names of lanes */
#define RIGHT      24.0
#define TOP        46.0
#define ROW        15.0 /* of texts in a lane */
#define ROWS_MOST  4u
#define SWITCHES   26.0 /* heights of lanes */
#define LEVELS     44.0
#define GAP        8.0
#define FONT       11.0
#define TICKS_MOST 12.0

/* What is drawn, and where it ends on the right in each row of the lane. */
struct picture {
    const struct timeline *t;
    cairo_t *c;
    double from, to; /* s */
    double y;        /* of the lane */
};

static double x_at(const struct picture *p, double s)
{
    return LEFT + (s - p->from) / (p->to - p->from) * (WIDTH - LEFT - RIGHT);
}

static double seconds(uint64_t us)
{
    return (double)us / 1e6;
}

static double text_width(const struct picture *p, const char *text)
{
    cairo_text_extents_t extents;
    cairo_text_extents(p->c, text, &extents);
    return extents.x_advance;
}

static void put_text(const struct picture *p, double x, double y, const char *text)
{
    cairo_move_to(p->c, x, y);
    cairo_show_text(p->c, text);
}

/* UTF-8 that is shown; what is none is left out. */
static char *shown(const char *text)
{
    char *valid = g_utf8_make_valid(text, -1);
    if (g_utf8_strlen(valid, -1) > 48) {
        char *cut = g_utf8_substring(valid, 0, 46), *whole = g_strconcat(cut, "…", NULL);
        g_free(cut);
        g_free(valid);
        return whole;
    }
    return valid;
}

/* ---- the axis ---- */

/* 1, 2 or 5 times a power of ten, so that there are not too many. */
static double step_of(double span)
{
    double step = pow(10, floor(log10(span / TICKS_MOST)));
    static const double times[] = {1, 2, 5, 10};
    for (unsigned i = 0; i < G_N_ELEMENTS(times); i++)
        if (span / (step * times[i]) <= TICKS_MOST) return step * times[i];
    return step * 10;
}

static char *time_text(double s, double step)
{
    if (step < 1e-3) return g_strdup_printf("%.0f us", s * 1e6);
    if (step < 1) return g_strdup_printf("%.*f s", step < 0.01 ? 3 : step < 0.1 ? 2 : 1, s);
    if (s >= 600 && step >= 60) return g_strdup_printf("%.0f min", s / 60);
    return g_strdup_printf("%.0f s", s);
}

static void draw_axis(const struct picture *p, double bottom)
{
    double step = step_of(p->to - p->from);
    cairo_set_line_width(p->c, 1);
    for (double s = ceil(p->from / step) * step; s <= p->to + step / 1000; s += step) {
        double x = floor(x_at(p, s)) + 0.5;
        char *text = time_text(s, step);
        cairo_set_source_rgb(p->c, 0.85, 0.85, 0.85);
        cairo_move_to(p->c, x, TOP - 6);
        cairo_line_to(p->c, x, bottom);
        cairo_stroke(p->c);
        cairo_set_source_rgb(p->c, 0.2, 0.2, 0.2);
        double width = text_width(p, text);
        put_text(p, MIN(x - width / 2, WIDTH - width - 2), TOP - 10, text);
        put_text(p, MIN(x - width / 2, WIDTH - width - 2), bottom + 14, text);
        g_free(text);
    }
}

/* ---- lanes ---- */

static bool is_within(const struct picture *p, const struct point *point)
{
    double s = seconds(point->us);
    return s >= p->from && s <= p->to;
}

static bool has_texts(const struct lane *lane)
{
    return lane->kind == LANE_LINK || lane->kind == LANE_NOTES;
}

/* Where a text of that width begins that stands right of x, or left of it at the right edge. */
static double text_x(double x, double width)
{
    return x + width + 16 > WIDTH ? x - width - 4 : x + 14;
}

/* Each way of a link has rows of its own, so that texts do not stand on one another. */
struct rows {
    double end[ROWS_MOST];
};

/* The row where there is room for a text at x; ROWS_MOST: none. */
static unsigned row_for(struct rows *rows, double x, double width)
{
    double begin = MIN(x, text_x(x, width));
    for (unsigned i = 0; i < ROWS_MOST; i++)
        if (rows->end[i] <= begin) {
            rows->end[i] = MAX(x + 14, text_x(x, width) + width) + 6;
            return i;
        }
    return ROWS_MOST;
}

static bool goes_down(const struct point *point)
{
    return point->mark == POINT_ANSWERED;
}

static const char *lead_of(const struct point *point)
{
    return point->mark == POINT_TWICE ? "twice: " : point->mark == POINT_LATE ? "late: " : "";
}

static double lead_width(const struct picture *p, const struct point *point)
{
    return *lead_of(point) ? text_width(p, lead_of(point)) : 0;
}

/* How many rows its texts take, each way. */
static void count_rows(const struct picture *p, const struct lane *lane, unsigned n[2])
{
    struct rows rows[2] = {0};
    n[0] = n[1] = 0;
    for (unsigned i = 0; i < lane->points->len; i++) {
        const struct point *point = &g_array_index(lane->points, struct point, i);
        if (!is_within(p, point)) continue;
        bool down = goes_down(point);
        char *text = shown(point->text ? point->text : "");
        unsigned row = row_for(&rows[down], x_at(p, seconds(point->us)),
                               text_width(p, text) + lead_width(p, point));
        n[down] = MAX(n[down], MIN(row + 1, ROWS_MOST));
        g_free(text);
    }
}

static double height_of(const struct picture *p, const struct lane *lane)
{
    unsigned n[2];
    if (lane->kind == LANE_SWITCH) return SWITCHES;
    if (!has_texts(lane)) return LEVELS;
    count_rows(p, lane, n);
    return ROW * MAX(n[0] + n[1], 1) + 8;
}

static bool is_empty(const struct picture *p, const struct lane *lane)
{
    for (unsigned i = 0; i < lane->points->len; i++)
        if (!has_texts(lane) || is_within(p, &g_array_index(lane->points, struct point, i)))
            return false;
    return true;
}

/* A sign for what became of it, left of its text. */
static void draw_mark(const struct picture *p, const struct point *point, double x, double y)
{
    cairo_t *c = p->c;
    bool bad = point->mark == POINT_LOST || point->mark == POINT_DAMAGED;
    cairo_set_source_rgb(c, bad ? 0.75 : 0, bad ? 0.05 : 0, bad ? 0.05 : 0);
    cairo_set_line_width(c, 1.6);
    switch (point->mark) {
    case POINT_LOST:
        cairo_move_to(c, x + 1, y - 8);
        cairo_line_to(c, x + 9, y);
        cairo_move_to(c, x + 9, y - 8);
        cairo_line_to(c, x + 1, y);
        break;
    case POINT_DAMAGED:
        cairo_move_to(c, x + 1, y - 4);
        cairo_line_to(c, x + 4, y - 8);
        cairo_line_to(c, x + 6, y);
        cairo_line_to(c, x + 9, y - 4);
        break;
    case POINT_SAID:
        cairo_move_to(c, x, y - 8);
        cairo_line_to(c, x + 5, y - 1);
        cairo_line_to(c, x + 10, y - 8);
        break;
    case POINT_ANSWERED:
        cairo_move_to(c, x, y - 1);
        cairo_line_to(c, x + 5, y - 8);
        cairo_line_to(c, x + 10, y - 1);
        break;
    case POINT_TWICE:
    case POINT_LATE:
    case POINT_TOLD: cairo_new_sub_path(c); cairo_arc(c, x + 5, y - 4, 2.5, 0, 2 * G_PI);
    }
    cairo_stroke(c);
}

static void draw_texts(const struct picture *p, const struct lane *lane)
{
    struct rows rows[2] = {0};
    unsigned n[2];
    count_rows(p, lane, n);
    for (unsigned i = 0; i < lane->points->len; i++) {
        const struct point *point = &g_array_index(lane->points, struct point, i);
        if (!is_within(p, point)) continue;
        bool down = goes_down(point);
        char *text = shown(point->text ? point->text : "");
        double x = x_at(p, seconds(point->us));
        unsigned row = row_for(&rows[down], x, text_width(p, text) + lead_width(p, point));
        double y = p->y + 12 + ROW * (row + (down ? n[0] : 0));
        if (row < ROWS_MOST) {
            cairo_set_source_rgb(p->c, 0.6, 0.6, 0.6);
            cairo_set_line_width(p->c, 1);
            cairo_move_to(p->c, floor(x) + 0.5, y - 10);
            cairo_line_to(p->c, floor(x) + 0.5, y + 2);
            cairo_stroke(p->c);
            draw_mark(p, point, x + 2, y);
            char *whole = g_strconcat(lead_of(point), text, NULL);
            put_text(p, text_x(x, text_width(p, whole)), y, whole);
            g_free(whole);
        }
        g_free(text);
    }
}

static double y_of(const struct picture *p, const struct lane *lane, double value)
{
    double height = lane->kind == LANE_SWITCH ? SWITCHES : LEVELS;
    double low = lane->low, high = lane->high > lane->low ? lane->high : lane->low + 1;
    return p->y + height - 5 - (value - low) / (high - low) * (height - 12);
}

/* Steps from one value to the next; what was before the picture goes on in it. */
static void draw_values(const struct picture *p, const struct lane *lane)
{
    double value = 0, x = LEFT, right = WIDTH - RIGHT, said = 0;
    bool begun = false;
    cairo_set_source_rgb(p->c, 0.8, 0.8, 0.8);
    cairo_set_line_width(p->c, 1);
    if (lane->kind != LANE_NUMBER) {
        cairo_move_to(p->c, LEFT, y_of(p, lane, 0));
        cairo_line_to(p->c, right, y_of(p, lane, 0));
        cairo_stroke(p->c);
    }
    cairo_set_source_rgb(p->c, 0, 0.25, 0.55);
    cairo_set_line_width(p->c, 2);
    for (unsigned i = 0; i < lane->points->len; i++) {
        const struct point *point = &g_array_index(lane->points, struct point, i);
        double at = MIN(x_at(p, seconds(point->us)), right);
        if (begun && at > x) {
            cairo_line_to(p->c, at, y_of(p, lane, value));
            x = at;
        }
        value = point->value;
        if (!begun) cairo_move_to(p->c, MAX(at, LEFT), y_of(p, lane, value));
        if (begun && at >= LEFT) cairo_line_to(p->c, MAX(at, LEFT), y_of(p, lane, value));
        if (at < LEFT) cairo_move_to(p->c, LEFT, y_of(p, lane, value));
        begun = true;
    }
    if (begun) cairo_line_to(p->c, right, y_of(p, lane, value));
    cairo_stroke(p->c);
    cairo_set_source_rgb(p->c, 0.2, 0.2, 0.2);
    for (unsigned i = 0; lane->kind != LANE_SWITCH && i < lane->points->len; i++) {
        const struct point *point = &g_array_index(lane->points, struct point, i);
        const struct point *next = i + 1 < lane->points->len ? point + 1 : NULL;
        bool rests = !next || next->us - point->us > 100000; /* no step of a ramp */
        double at = MAX(x_at(p, seconds(point->us)), LEFT);
        if (!is_within(p, point) || !rests || at < said) continue;
        char *text =
            point->text ? g_strdup(point->text) : g_strdup_printf("%.0f %%", point->value * 100);
        double y = y_of(p, lane, point->value), width = text_width(p, text);
        double x_text = at + 4 + width > WIDTH ? WIDTH - width - 2 : at + 4;
        put_text(p, x_text, y < p->y + 16 ? y + 12 : y - 4, text);
        said = at + width + 8;
        g_free(text);
    }
}

static void draw_lane(struct picture *p, const struct lane *lane, bool dark)
{
    double height = height_of(p, lane);
    cairo_set_source_rgb(p->c, dark ? 0.95 : 1, dark ? 0.95 : 1, dark ? 0.97 : 1);
    cairo_rectangle(p->c, 0, p->y, WIDTH, height);
    cairo_fill(p->c);
}

static void draw_name(struct picture *p, const struct lane *lane, double height)
{
    static const char *const kinds[] = {[LANE_LINK] = "link", [LANE_NOTES] = "told"};
    const char *kind = has_texts(lane) ? kinds[lane->kind] : lane->input ? "input" : "output";
    cairo_set_source_rgb(p->c, 0, 0, 0);
    cairo_select_font_face(p->c, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_BOLD);
    char *name = shown(lane->name);
    put_text(p, 8, p->y + MIN(height / 2 + 4, 18), name);
    double width = text_width(p, name);
    cairo_select_font_face(p->c, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_source_rgb(p->c, 0.45, 0.45, 0.45);
    if (width < LEFT - 60) put_text(p, 14 + width, p->y + MIN(height / 2 + 4, 18), kind);
    g_free(name);
}

static void draw_all(struct picture *p, double bottom)
{
    unsigned drawn = 0;
    p->y = TOP;
    for (unsigned i = 0; i < p->t->lanes->len; i++) {
        const struct lane *lane = p->t->lanes->pdata[i];
        if (is_empty(p, lane)) continue;
        draw_lane(p, lane, drawn++ % 2);
        p->y += height_of(p, lane) + GAP;
    }
    draw_axis(p, bottom);
    p->y = TOP;
    for (unsigned i = 0; i < p->t->lanes->len; i++) {
        const struct lane *lane = p->t->lanes->pdata[i];
        if (is_empty(p, lane)) continue;
        double height = height_of(p, lane);
        if (has_texts(lane)) {
            cairo_set_source_rgb(p->c, 0, 0, 0);
            draw_texts(p, lane);
        } else {
            draw_values(p, lane);
        }
        draw_name(p, lane, height);
        p->y += height + GAP;
    }
}

static void set_font(cairo_t *c)
{
    cairo_select_font_face(c, "DejaVu Sans", CAIRO_FONT_SLANT_NORMAL, CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(c, FONT);
}

/* The height that all lanes take. */
static double whole_height(const struct timeline *t, double from, double to)
{
    cairo_surface_t *none = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, 1, 1);
    struct picture p = {t, cairo_create(none), from, to, 0};
    double height = TOP;
    set_font(p.c);
    for (unsigned i = 0; i < t->lanes->len; i++)
        if (!is_empty(&p, t->lanes->pdata[i])) height += height_of(&p, t->lanes->pdata[i]) + GAP;
    cairo_destroy(p.c);
    cairo_surface_destroy(none);
    return height;
}

static void draw_head(const struct picture *p)
{
    static const struct {
        enum point_mark mark;
        const char *text;
    } keys[] = {{POINT_SAID, "sent to the device"},
                {POINT_ANSWERED, "sent by the device"},
                {POINT_LOST, "lost"},
                {POINT_DAMAGED, "damaged"},
                {POINT_TOLD, "happened"}};
    double x = LEFT;
    cairo_set_source_rgb(p->c, 0, 0, 0);
    cairo_set_font_size(p->c, 13);
    put_text(p, 8, 18, p->t->lexicon ? p->t->lexicon : "trace");
    cairo_set_font_size(p->c, FONT);
    for (unsigned i = 0; i < G_N_ELEMENTS(keys); i++) {
        struct point point = {.mark = keys[i].mark};
        draw_mark(p, &point, x, 18);
        cairo_set_source_rgb(p->c, 0, 0, 0);
        put_text(p, x + 14, 18, keys[i].text);
        x += text_width(p, keys[i].text) + 36;
    }
}

static cairo_status_t put_bytes(void *to, const unsigned char *bytes, unsigned count)
{
    g_byte_array_append(to, bytes, count);
    return CAIRO_STATUS_SUCCESS;
}

bool timeline_picture(const struct timeline *t, const char *file, bool svg, uint64_t from_us,
                      uint64_t to_us, GError **error)
{
    double from = seconds(from_us), to = MAX(seconds(to_us), from + 1e-5);
    double bottom = whole_height(t, from, to), height = bottom + 24;
    GByteArray *bytes = g_byte_array_new(); /* a file is written whole or not at all */
    cairo_surface_t *surface =
        svg ? cairo_svg_surface_create_for_stream(put_bytes, bytes, WIDTH, height)
            : cairo_image_surface_create(CAIRO_FORMAT_RGB24, (int)WIDTH, (int)height);
    struct picture p = {t, cairo_create(surface), from, to, 0};
    cairo_set_source_rgb(p.c, 1, 1, 1);
    cairo_paint(p.c);
    set_font(p.c);
    draw_all(&p, bottom);
    draw_head(&p);
    cairo_destroy(p.c);
    cairo_status_t status = CAIRO_STATUS_SUCCESS;
    if (svg)
        cairo_surface_finish(surface);
    else
        status = cairo_surface_write_to_png_stream(surface, put_bytes, bytes);
    if (!status) status = cairo_surface_status(surface);
    cairo_surface_destroy(surface);
    if (status)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", file,
                    cairo_status_to_string(status));
    bool ok = !status && files_write(file, (const char *)bytes->data, bytes->len, error);
    g_byte_array_free(bytes, TRUE);
    return ok;
}
