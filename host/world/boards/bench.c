/* The bench: boards with their links' other ends, on one virtual clock.
 * Every byte, pin and message is a sight that watchers get in order.
 * It prints nothing. */
#include "world/boards/bench_parts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "rlx/image.h"

/* A frame that no line end ends is over after this silence. */
#define REST_US 20000u
/* A program that is busy for so long is reported. */
#define BUSY_TOLD_US 5000u

/* ---- who watches ---- */

void bench_watch(struct bench *bench, bench_watcher watcher, void *user)
{
    g_assert(bench->n_watchers < BENCH_WATCHERS);
    bench->watchers[bench->n_watchers].watcher = watcher;
    bench->watchers[bench->n_watchers++].user = user;
}

void bench_tell(struct bench *bench, const struct sight *sight)
{
    for (unsigned i = 0; i < bench->n_watchers; i++)
        bench->watchers[i].watcher(bench->watchers[i].user, sight);
}

static void tell(struct end *end, enum sight_kind kind, const char *text, size_t count,
                 const uint8_t *bytes, size_t n_bytes)
{
    struct sight sight = {.kind = kind,
                          .board = end->board,
                          .end = end,
                          .name = end->name,
                          .text = text,
                          .count = count,
                          .bytes = bytes,
                          .n_bytes = n_bytes};
    bench_tell(end->board->bench, &sight);
    if (kind == SIGHT_ANSWERED) bench_lamps(end, text, count);
}

void bench_tell_text(struct end *end, enum sight_kind kind, const char *text, size_t count)
{
    tell(end, kind, text, count, NULL, 0);
}

void bench_tell_bytes(struct end *end, enum sight_kind kind, const char *text, const uint8_t *bytes,
                      size_t n_bytes)
{
    tell(end, kind, text, strlen(text), bytes, n_bytes);
}

void bench_tell_about(struct board *board, struct end *end, enum sight_kind kind, const char *name,
                      const char *text)
{
    struct sight sight = {.kind = kind,
                          .board = board,
                          .end = end,
                          .name = name,
                          .text = text,
                          .count = strlen(text)};
    bench_tell(board->bench, &sight);
}

/* ---- what the devices do ---- */

/* Whether a LF ends its answers. */
static bool answers_lines(const struct lex_link *link)
{
    bool lf = link->answer_end == LEX_END_CRLF || link->answer_end == LEX_END_LF;
    return lf && lex_framing_of(link)->answers_lines;
}

/* A text that no line end ends is looked at when the line was silent for so long. */
static void await_rest(struct end *end)
{
    struct bench *bench = end->board->bench;
    if (!answers_lines(end->of) && end->heard->len)
        bench->rest_at = MIN(bench->rest_at, end->last_us + REST_US + 1);
}

/* As somebody would say it: a text as it is, other bytes in hex. */
static void tell_raw(struct end *end)
{
    GString *heard = end->heard, *hex = g_string_new(NULL);
    bool text = true;
    for (gsize i = 0; i < heard->len; i++) {
        text &= g_ascii_isprint(heard->str[i]);
        g_string_append_printf(hex, "%s0x%02X", i ? " " : "", (guchar)heard->str[i]);
    }
    const GString *told = text ? heard : hex;
    bench_tell_text(end, SIGHT_ANSWERED, told->str, told->len);
    g_string_free(hex, TRUE);
}

/* What came back is over: an answer, or of bytes each of them that is there. */
static void tell_answered(struct end *end)
{
    GString *heard = end->heard;
    if (lex_is_raw(end->of)) {
        tell_raw(end);
    } else if (!end->of->layout) {
        bench_tell_text(end, SIGHT_ANSWERED, heard->str, heard->len);
    } else {
        const guint8 *bytes = (const guint8 *)heard->str;
        for (size_t at = 0, used; at < heard->len; at += used) {
            char *text = layout_decode(end->of, bytes + at, heard->len - at, &used);
            bench_tell_bytes(end, SIGHT_ANSWERED, text, bytes + at, used);
            g_free(text);
        }
    }
    g_string_truncate(heard, 0);
}

/* A packet or message is reported when it is over; a line may come in several reports, whose unused
 * bytes are 0. */
static void on_packet(struct end *end, unsigned value)
{
    bool report = lex_framing_of(end->of)->piece;
    bool over = report ? value == '\n' : value == 256;
    end->last_us = end->board->bench->world->now_us;
    if (value < 256 && !(report && (!value || value == '\r' || value == '\n')))
        g_string_append_c(end->heard, (char)value);
    await_rest(end);
    if (report && value < 256) g_string_append_c(end->report, (char)value);
    if (report && value == 256) {
        bench_tell_text(end, SIGHT_REPORT, end->report->str, end->report->len);
        g_string_truncate(end->report, 0);
    }
    if (over) tell_answered(end);
}

static void on_report(void *user, const uint8_t *report)
{
    struct end *end = user;
    for (unsigned i = 0; i < RLX_REPORT; i++) on_packet(end, report[i]);
    on_packet(end, 256);
}

static void on_no_report(void *user, const uint8_t *report)
{
    (void)report;
    bench_tell_text(user, SIGHT_LOST, "a report: it is unplugged", 25);
}

/* Its code waited for the clock, and its main loop did not get to its sleep. */
static void on_busy(struct board *board, struct sim_event event)
{
    char text[64];
    struct sight sight = {
        .kind = SIGHT_BUSY, .board = board, .name = "firmware", .text = text, .event = event};
    if (event.value < BUSY_TOLD_US) return;
    g_snprintf(text, sizeof text, "was busy for %u ms without a sleep", event.value / 1000);
    sight.count = strlen(text);
    bench_tell(board->bench, &sight);
}

static void on_out(void *user, struct sim_event event)
{
    struct board *board = user;
    struct end *end = event.index < board->ends->len ? board->ends->pdata[event.index] : NULL;
    if (event.kind == SIM_PACKET) {
        if (end && end->reports)
            reports_out(end->reports, event.value);
        else if (end)
            on_packet(end, event.value);
        if (end && end->aerial) aerial_out(end->aerial, event);
        return;
    }
    if (event.kind == SIM_BUSY) {
        on_busy(board, event);
        return;
    }
    if (event.kind == SIM_SEND) {
        if (end) serial_send(end->serial, (uint8_t)event.value);
        return;
    }
    struct sight sight = {.kind = SIGHT_OUT, .board = board, .event = event};
    bool changed = event.kind == SIM_PIN && board->driven.pin[event.index] != (event.value != 0);
    if (event.kind == SIM_PIN)
        board->driven.pin[event.index] = event.value != 0;
    else if (event.kind == SIM_DUTY)
        board->driven.duty[event.index] = (uint16_t)event.value;
    else
        board->driven.number[event.index] = (uint16_t)event.value;
    bench_tell(board->bench, &sight);
    if (board->loads) loads_out(board->loads, event);
    if (changed) bench_hang_up(board, event.index);
}

/* Whether the line is the echo of what was typed, which a terminal shows already. */
static bool is_echo(struct end *end)
{
    bool echo = end->typed && g_str_has_prefix(end->heard->str, "> ") &&
                !strcmp(end->typed, end->heard->str + 2);
    if (echo) g_clear_pointer(&end->typed, g_free);
    return echo;
}

static void line_over(struct end *end)
{
    GString *line = end->heard;
    if (line->len && line->str[line->len - 1] == '\r') g_string_truncate(line, line->len - 1);
    if (!is_echo(end)) bench_tell_text(end, SIGHT_ANSWERED, line->str, line->len);
    g_string_truncate(line, 0);
}

/* The device's lines end with CR LF, or as its link has it; those of somebody else on its wire
 * perhaps with CR alone. */
static void on_byte(void *user, struct serial *serial, uint8_t byte)
{
    struct end *end = user;
    GString *line = end->heard;
    struct sight sight = {.kind = SIGHT_BYTE,
                          .board = end->board,
                          .end = end,
                          .name = end->name,
                          .event = {SIM_SEND, serial->uart, 0, byte}};
    end->last_us = end->board->bench->world->now_us;
    if (end->modem) {
        modem_hear(end->modem, byte);
        return;
    }
    bench_tell(end->board->bench, &sight);
    if (end->of->layout) {
        guint8 last = end->of->frame == LEX_FRAME_STUFFED ? RLX_STUFF_FLAG : 0;
        bool marked = end->of->frame == LEX_FRAME_STUFFED || end->of->frame == LEX_FRAME_COBS;
        bool ends = marked && byte == last && line->len > 1;
        g_string_append_c(line, (char)byte);
        if (ends) tell_answered(end);
        await_rest(end);
        return;
    }
    if (byte == '\n' || (line->len && line->str[line->len - 1] == '\r')) line_over(end);
    if (byte != '\n') g_string_append_c(line, (char)byte);
    await_rest(end);
}

static void on_modem_lost(void *user, struct serial *serial, unsigned bytes, bool packet)
{
    char text[64];
    (void)serial;
    g_snprintf(text, sizeof text, "%s%u byte%s%s", packet ? "a packet of " : "", bytes,
               bytes > 1 ? "s" : "", packet ? "" : ": the modem is full");
    bench_tell_text(user, SIGHT_LOST, text, strlen(text));
}

void bench_tell_rest(struct end *end)
{
    GString *line = end->heard;
    /* what is said to a real modem, or by a device whose lines end so */
    bool cr = !end->of->layout && (end->unused || end->of->answer_end == LEX_END_CR);
    if (cr && line->len && line->str[line->len - 1] == '\r') g_string_truncate(line, line->len - 1);
    if (line->len) tell_answered(end);
}

bool bench_is_unasked(const struct lex_link *link, const char *text)
{
    bool own = false, answer = false;
    if (*text == RLX_REPLY_LEAD) text++;
    for (unsigned i = 0; link && i < link->texts->len; i++) {
        const struct lex_text *told = link->texts->pdata[i];
        bool unasked = !strcmp(told->what, "note") || !strcmp(told->what, "ready") ||
                       g_str_has_prefix(told->what, "ev ");
        if (strcmp(told->text, text) != 0) continue;
        own |= unasked;
        answer |= !unasked;
    }
    if (own) return !answer;
    return g_str_has_prefix(text, "ev ") || g_str_has_prefix(text, "note ") ||
           g_str_has_prefix(text, "ready ");
}

void bench_tell_rests(struct bench *bench)
{
    uint64_t now = bench->world->now_us;
    if (now < bench->rest_at) return;
    bench->rest_at = UINT64_MAX;
    for (unsigned i = 0; i < bench->ends->len; i++) {
        struct end *end = bench->ends->pdata[i];
        bool lines = answers_lines(end->of);
        if (!lines && end->heard->len && now - end->last_us > REST_US) bench_tell_rest(end);
        await_rest(end);
    }
}

/* ---- pins ---- */

void bench_set_pin(struct board *board, unsigned pin, bool high)
{
    struct sight sight = {
        .kind = SIGHT_IN, .board = board, .event = {SIM_PIN_IN, (uint8_t)pin, 0, high}};
    bench_tell(board->bench, &sight);
    device_in(board->device, SIM_PIN_IN, (uint8_t)pin, high);
}

void bench_push(struct board *board, const struct lex_input *in, bool on)
{
    if (board->loads)
        loads_push(board->loads, in, on);
    else
        bench_set_pin(board, in->pin, on != in->active_low);
}

static void on_load_pin(void *user, uint8_t pin, bool high)
{
    bench_set_pin(user, pin, high);
}

static void on_load(void *user, const char *name, const char *what)
{
    bench_tell_about(user, NULL, SIGHT_LOAD, name, what);
}

/* ---- begin and end ---- */

static struct end *add_end(struct board *board, unsigned link)
{
    struct bench *bench = board->bench;
    struct end *end = g_new0(struct end, 1);
    const struct lex_link *of = board->lx->links->pdata[link];
    end->board = board;
    end->link = link;
    end->of = of;
    end->name = *board->name ? g_strdup_printf("%s.%s", board->name, of->name) : g_strdup(of->name);
    end->heard = g_string_new(NULL);
    end->frames = g_ptr_array_new_with_free_func(bench_free_frame);
    end->report = g_string_new(NULL);
    end->serial = serial_new(bench->world, of->baud ? of->baud : 9600, (uint8_t)link);
    if (of->format.data) end->serial->is.format = of->format;
    end->serial->device = board->device;
    end->serial->on_byte = on_byte;
    end->serial->on_lost = on_modem_lost;
    end->serial->user = end;
    if (lex_framing_of(of)->piece && bench->options->world) {
        end->reports =
            reports_new(bench->world, board->device, (uint8_t)link, on_report, on_no_report, end);
        device_pace(board->device, (uint8_t)link);
    }
    if (lex_drives_modem(of)) bench_begin_modem(end);
    g_ptr_array_add(board->ends, end);
    g_ptr_array_add(bench->ends, end);
    return end;
}

static void end_free(void *p)
{
    struct end *end = p;
    serial_free(end->serial);
    reports_free(end->reports);
    g_string_free(end->heard, TRUE);
    g_string_free(end->report, TRUE);
    g_free(end->aerial);
    modem_free(end->modem);
    modem_free(end->unused);
    g_free(end->number);
    g_free(end->from);
    g_free(end->typed);
    g_ptr_array_free(end->frames, TRUE);
    g_free(end->name);
    g_free(end);
}

static void board_free(void *p)
{
    struct board *board = p;
    device_free(board->device);
    loads_free(board->loads);
    g_ptr_array_free(board->ends, TRUE);
    g_free(board);
}

static bool add_board(struct bench *bench, const char *name, struct lexicon *lx,
                      const struct image *image, const char *firmware, GError **error)
{
    const struct bench_options *options = bench->options;
    struct board *board = g_new0(struct board, 1);
    *board = (struct board){.bench = bench, .name = name, .lx = lx, .ends = g_ptr_array_new()};
    g_ptr_array_add(bench->boards, board);
    const bool outside = options->outside && !*name;
    board->device =
        outside
            ? device_of_outside(bench->world, lx, options->outside, (uint8_t)options->outside_link)
        : firmware ? device_of_program(bench->world, lx, image, firmware, options->start_ms, error)
                   : device_of_image(bench->world, lx, image, options->start_ms, error);
    if (!board->device) return false;
    if (options->idle) device_stand_idle(board->device);
    device_give_keys(board->device, image);
    device_listen(board->device, on_out, board);
    if (!*name) device_clock(board->device, options->clock_ppm);
    if (options->loads && !outside)
        board->loads = loads_new(bench->world, lx, options->seed + bench->boards->len - 1,
                                 (struct loads_ends){board, on_load_pin, on_load});
    for (unsigned i = 0; i < lx->links->len; i++) add_end(board, i);
    return true;
}

struct bench *bench_new(struct lexicon *lx, const struct image *image,
                        const struct bench_options *options, GError **error)
{
    struct bench *bench = g_new0(struct bench, 1);
    const struct world_file *file = options->world;
    bench->options = options;
    bench->world = world_new();
    bench->rest_at = UINT64_MAX;
    bench->boards = g_ptr_array_new_with_free_func(board_free);
    bench->ends = g_ptr_array_new_with_free_func(end_free);
    bench->mediums = g_ptr_array_new();
    bench->speakers = g_ptr_array_new();
    bench->bridges = g_ptr_array_new_with_free_func(g_free);
    bench->changes = g_ptr_array_new_with_free_func(g_free);
    bench->presses = g_ptr_array_new_with_free_func(g_free);
    bool ok = add_board(bench, "", lx, image, options->firmware, error);
    for (unsigned i = 0; ok && file && i < file->devices->len; i++) {
        const struct world_device *d = file->devices->pdata[i];
        ok = add_board(bench, d->name, d->lx, d->image, d->firmware, error);
    }
    if (ok) {
        bench_begin_handsets(bench);
        bench_begin_world(bench);
    }
    if (ok) return bench;
    bench_free(bench);
    return NULL;
}

void bench_free(struct bench *bench)
{
    if (!bench) return;
    bench_end_world(bench);
    g_ptr_array_free(bench->presses, TRUE);
    g_ptr_array_free(bench->boards, TRUE);
    g_ptr_array_free(bench->ends, TRUE);
    g_ptr_array_free(bench->mediums, TRUE);
    g_ptr_array_free(bench->speakers, TRUE);
    g_ptr_array_free(bench->bridges, TRUE);
    g_ptr_array_free(bench->changes, TRUE);
    network_free(bench->network);
    world_free(bench->world);
    g_free(bench);
}

static void on_heard(void *user, enum sim_kind kind, uint8_t link, const uint8_t *bytes,
                     unsigned count)
{
    const struct board *board = user;
    if (link >= board->ends->len) return;
    const struct end *end = board->ends->pdata[link];
    struct sight sight = {.kind = SIGHT_HEARD,
                          .board = board,
                          .end = end,
                          .name = end->name,
                          .text = (const char *)bytes,
                          .count = count,
                          .event = {(uint8_t)kind, link, 0, 0}};
    bench_tell(board->bench, &sight);
}

void bench_hears(struct bench *bench)
{
    for (unsigned i = 0; i < bench->boards->len; i++) {
        struct board *board = bench->boards->pdata[i];
        device_on_heard(board->device, on_heard, board);
    }
}

void bench_start(struct bench *bench)
{
    for (unsigned i = 0; i < bench->boards->len; i++)
        bench_power(bench->boards->pdata[i], RLX_RESET_POWER);
}

const char *bench_failure(const struct bench *bench)
{
    for (unsigned i = 0; i < bench->boards->len; i++) {
        const struct board *board = bench->boards->pdata[i];
        if (device_failure(board->device)) return device_failure(board->device);
    }
    return NULL;
}

struct end *bench_end(const struct bench *bench, const char *name)
{
    for (unsigned i = 0; i < bench->ends->len; i++) {
        struct end *end = bench->ends->pdata[i];
        if (!strcmp(end->name, name)) return end;
    }
    return NULL;
}

struct speaker *bench_speaker(const struct bench *bench, const char *name)
{
    for (unsigned i = 0; i < bench->speakers->len; i++) {
        struct speaker *speaker = bench->speakers->pdata[i];
        if (!strcmp(speaker->name, name)) return speaker;
    }
    return NULL;
}

struct speaker *bench_speaker_to(const struct bench *bench, const struct end *end)
{
    for (unsigned i = 0; i < bench->speakers->len; i++) {
        struct speaker *speaker = bench->speakers->pdata[i];
        if (speaker->end == end && speaker->controller) return speaker;
    }
    return NULL;
}

bool board_input_is_on(const struct board *board, const struct lex_input *in)
{
    bool high, told = device_pin(board->device, (uint8_t)in->pin, &high);
    return told && high != in->active_low;
}

const char *end_is(const struct end *end)
{
    bool high;
    if (end->unplugged) return "unplugged";
    if (end->bridge) return end->connected ? "connected" : "not connected";
    if (end->of->state_pin == LEX_NO_PIN) return NULL;
    bool up = device_pin(end->board->device, (uint8_t)end->of->state_pin, &high) &&
              high != end->of->state_low;
    return up ? "up" : "down";
}
