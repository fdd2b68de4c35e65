/* Sends a text over a link as its framing and envelope want it.
 * Bytes, packets, reports or messages, by the link.
 * It does not wait for the reply. */
#include "world/boards/bench_parts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "rlx/image.h"

/* The sender goes on when the link was silent for this long... */
#define QUIET_US 20000
/* ...or after this at the latest. */
#define PATIENCE_US 2000000
/* A real board, on whatever leads to it, answers within this, with silences no longer than that. */
#define OUTSIDE_US       300000
#define OUTSIDE_QUIET_US 60000
/* A controller knows what became of a command after this time. */
#define AIR_PATIENCE_US UINT64_C(7200000000)

/* After it sticks must be at rest. */
#define HALT "halt"

/* ---- sending ---- */

void bench_type(struct end *end, const char *bytes, size_t count)
{
    if (g_strstr_len(bytes, (gssize)count, HALT)) bench_renew_sticks(end->board);
    serial_type(end->serial, (const uint8_t *)bytes, count);
}

void bench_was_typed(struct end *end, const char *text, size_t count)
{
    bench_tell_text(end, SIGHT_SAID, text, count);
}

void bench_is_met(struct end *end, const char *text)
{
    bench_tell_text(end, SIGHT_BRIDGE, text, strlen(text));
}

bool speaker_replay(struct speaker *speaker, const char *pattern)
{
    for (unsigned i = speaker->recorded ? speaker->recorded->len : 0; i--;) {
        gsize count;
        const char *packet = g_bytes_get_data(speaker->recorded->pdata[i], &count);
        char *text = g_strndup(packet, count);
        bool fits = strchr(pattern, '*') ? g_pattern_match_simple(pattern, text)
                                         : strstr(text, pattern) != NULL;
        g_free(text);
        if (fits)
            return radio_send(speaker->radio, speaker->node, (const uint8_t *)packet,
                              (unsigned)count);
    }
    return false;
}

bool speaker_say(struct speaker *speaker, const char *text)
{
    if (!speaker->controller)
        return radio_send(speaker->radio, speaker->node, (const uint8_t *)text,
                          (unsigned)strlen(text));
    speaker->waits++;
    if (controller_say(speaker->controller, text) >= 0) return true;
    speaker->waits--;
    return false;
}

/* All of it at once, or in reports of 64 bytes with a line end behind it. */
static void send_packet(struct end *end, const uint8_t *bytes, size_t count)
{
    uint8_t packet[255];
    struct device *device = end->board->device;
    if (end->reports) {
        reports_say(end->reports, bytes, (unsigned)count);
    } else if (!lex_framing_of(end->of)->piece) {
        device_packet(device, (uint8_t)end->link, bytes, (unsigned)MIN(count, sizeof packet));
    } else {
        for (size_t at = 0; at <= count; at += RLX_REPORT) {
            size_t n = MIN(count - at, RLX_REPORT);
            memset(packet, 0, sizeof packet);
            memcpy(packet, bytes + at, n);
            if (n < RLX_REPORT) packet[n] = '\r';
            device_packet(device, (uint8_t)end->link, packet, RLX_REPORT);
        }
    }
}

/* The bytes that a layout has for the text; NULL, and it is reported, where it has none. */
static GString *bytes_of(struct end *end, const char *text, size_t count)
{
    char *said = g_strndup(text, count);
    GByteArray *bytes = layout_encode(end->of, said, end->tags);
    if (!bytes && lex_is_raw(end->of)) { /* the characters themselves */
        bytes = g_byte_array_new();
        g_byte_array_append(bytes, (const guint8 *)text, (guint)count);
    }
    end->tags += bytes != NULL;
    GString *frame = bytes ? g_string_new_len((const char *)bytes->data, bytes->len) : NULL;
    if (!bytes) {
        char *why = g_strdup_printf("\"%s\": no layout has it", said);
        bench_tell_text(end, SIGHT_LOST, why, strlen(why));
        g_free(why);
    } else {
        g_byte_array_free(bytes, TRUE);
    }
    g_free(said);
    return frame;
}

/* The text with what ends its frame or fills it up; NULL: it cannot be sent. Owned by the caller.
 */
static GString *frame_of(struct end *end, const char *text, size_t count)
{
    const struct lex_link *of = end->of;
    if (of->layout) return bytes_of(end, text, count);
    GString *frame = g_string_new_len(text, (gssize)count);
    if (lex_framing_of(of)->complete) lex_framing_of(of)->complete(of, frame, "\r");
    return frame;
}

static void tell_said(struct end *end, const char *text, size_t count, const GString *frame)
{
    if (end->of->layout && !lex_is_raw(end->of))
        bench_tell_bytes(end, SIGHT_SAID, text, (const uint8_t *)frame->str, frame->len);
    else
        bench_tell_text(end, SIGHT_SAID, text, count);
}

static bool say_packet(struct end *end, const char *text, size_t count)
{
    GString *packet = frame_of(end, text, count);
    if (!packet) return false;
    if (!end->medium) tell_said(end, text, count, packet);
    const uint8_t *bytes = (const uint8_t *)packet->str;
    bool said = true;
    if (end->medium)
        said = radio_send(end->medium->radio, end->sender, bytes, (unsigned)packet->len);
    else
        send_packet(end, bytes, packet->len);
    g_string_free(packet, TRUE);
    return said;
}

void bench_say_line(struct end *end, const char *text, size_t count)
{
    bench_tell_text(end, SIGHT_SAID, text, count);
    bench_type(end, text, count);
    bench_type(end, "\r", 1);
}

bool bench_say_bytes(struct end *end, const char *bytes, size_t count)
{
    if (end->medium)
        return radio_send(end->medium->radio, end->sender, (const uint8_t *)bytes, (unsigned)count);
    send_packet(end, (const uint8_t *)bytes, count);
    return true;
}

bool bench_say(struct end *end, const char *text, size_t count)
{
    struct speaker *speaker = bench_speaker_to(end->board->bench, end);
    if (strstr(text, HALT)) bench_renew_sticks(end->board);
    if (speaker) return speaker_say(speaker, text);
    if (end->modem) return bench_write(end, text);
    if (end->medium) return say_packet(end, text, count);
    if (lex_comes_whole(end->of)) return say_packet(end, text, count);
    if (end->of->people) {
        g_free(end->typed);
        end->typed = g_strdup(text);
    }
    if (end->of->layout && end->of->layout->channels && !g_str_has_prefix(text, "0x")) {
        char *said = g_strndup(text, count);
        bool moved = bench_move_sticks(end, said);
        g_free(said);
        if (strstr(text, HALT)) bench_renew_sticks(end->board);
        return moved;
    }
    GString *frame = frame_of(end, text, count);
    if (!frame) return false;
    tell_said(end, text, count, frame);
    bench_type(end, frame->str, frame->len);
    g_string_free(frame, TRUE);
    return true;
}

/* ---- time ---- */

void bench_pass(struct bench *bench, uint64_t us)
{
    uint64_t until = bench->world->now_us + us;
    while (until > bench->world->now_us) {
        /* what no line end ends is reported when the line was silent behind it */
        uint64_t next = MIN(until, MAX(bench->rest_at, bench->world->now_us + 1));
        bool more = world_step(bench->world, next);
        if (bench_failure(bench) || (!more && bench->world->now_us < next)) break;
        bench_tell_rests(bench);
    }
}

/* The silence that a device waits for before it obeys. */
static uint64_t waited(const struct lex_link *of)
{
    return lex_framing_of(of)->silence ? of->gap * UINT64_C(1000) : 0;
}

void bench_until_quiet(struct end *end)
{
    struct world *world = end->board->bench->world;
    const struct serial *serial = end->serial;
    if (end->modem) {
        bench_until_messages(end);
        return;
    }
    if (bench_repeats(end)) { /* until its commands have gone, and the device had time for them */
        uint64_t after = QUIET_US + waited(end->of) + 2000 * (uint64_t)end->of->layout->every;
        while (end->frames->len && !bench_failure(end->board->bench) &&
               world_step(world, UINT64_MAX)) {}
        bench_pass(end->board->bench, after);
        return;
    }
    uint64_t latest = world->now_us + PATIENCE_US;
    const bool outside = device_is_outside(end->board->device);
    uint64_t typed_us = world->now_us;
    end->last_us = typed_us;
    for (;;) {
        bool typing =
            serial->typing || end->frames->len || serial->to_device.free_us > world->now_us;
        bool busy = device_is_busy(end->board->device);
        bool under_way =
            busy || !hop_is_empty(serial->hop) || (end->reports && reports_wait(end->reports));
        bool asked = outside && end->last_us == typed_us; /* nothing came yet */
        uint64_t still = !outside ? QUIET_US : asked ? OUTSIDE_US : OUTSIDE_QUIET_US;
        uint64_t quiet = still + waited(end->of) +
                         2 * ((uint64_t)serial->faults.late_us + serial->faults.clump_us);
        uint64_t until = typing      ? UINT64_MAX
                         : under_way ? latest
                                     : MIN(end->last_us + quiet, latest);
        if (!world_step(world, until)) break;
        if (typing || under_way) end->last_us = typed_us = world->now_us;
        if (typing || busy) latest = end->last_us + PATIENCE_US;
        if (bench_failure(end->board->bench)) break;
    }
}

void bench_until_said(struct bench *bench)
{
    uint64_t latest = bench->world->now_us + PATIENCE_US;
    for (;;) {
        uint64_t busy = 0;
        for (unsigned i = 0; i < bench->ends->len; i++)
            busy = MAX(busy, ((struct end *)bench->ends->pdata[i])->serial->to_terminal.free_us);
        busy = MIN(busy, latest);
        if (busy <= bench->world->now_us) return;
        while (busy > bench->world->now_us && world_step(bench->world, busy)) {}
    }
}

void bench_until_all_quiet(struct bench *bench)
{
    for (unsigned i = 0; i < bench->ends->len; i++) bench_until_quiet(bench->ends->pdata[i]);
}

void bench_until_known(struct speaker *speaker)
{
    struct bench *bench = speaker->bench;
    uint64_t latest = bench->world->now_us + AIR_PATIENCE_US;
    while (speaker->waits && !bench_failure(bench) && world_step(bench->world, latest)) {}
}
