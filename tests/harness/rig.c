#include "rig.h"

#include "lexicon/layout/layout.h"
#include "lexicon/layout/sticks.h"
#include "rlx/image.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void on_receive(void *user, uint8_t uart, uint8_t byte)
{
    struct rig *rig = user;
    rlx_link_feed(&rig->link[uart], byte);
}

static bool on_transmit(void *user, uint8_t uart, uint8_t *byte)
{
    struct rig *rig = user;
    return !rig->hold_sent && rig->sent[uart]->len < rig->send_most &&
           rlx_link_take(&rig->link[uart], byte);
}

static void sink(void *user, struct sim_event event)
{
    struct rig *rig = user;
    if (event.kind == SIM_SEND)
        g_string_append_c(rig->sent[event.index], (char)event.value);
    else if (event.kind == SIM_PACKET && event.value < 256)
        g_string_append_c(rig->sent[event.index], (char)event.value);
    else if (event.kind == SIM_PACKET && rig->packet_ends)
        g_string_append(rig->sent[event.index], "\r\n");
    else if (event.kind == SIM_PIN)
        g_string_append_printf(rig->pins, "pin %u %s\n", event.index, event.value ? "high" : "low");
    else if (event.kind == SIM_DUTY)
        g_string_append_printf(rig->pins, "pwm %u %u\n", event.index, event.value);
    else if (event.kind == SIM_PULSE)
        g_string_append_printf(rig->pins, "pulse %u %u\n", event.index, event.value);
    else if (event.kind == SIM_STEPS)
        g_string_append_printf(rig->pins, "steps %u %u at %u\n", event.index, event.low,
                               event.value);
    else if (event.kind == SIM_TONE)
        g_string_append_printf(rig->pins, "tone %u %u\n", event.index, event.value);
}

/* What is asked for is all zeros before it is told; a handler cannot know more. */
static int handler(rlx_fn fn, void *user, rlx_value *value, const uint8_t *frame)
{
    struct rig *rig = user;
    (void)fn;
    rig->frame = frame;
    rig->calls++;
    rig->asker = rlx_asker(&rig->device);
    memcpy(rig->value, value, sizeof rig->value);
    if (rig->called) rig->called(rig);
    unsigned given = 0;
#if RLX_HAS_ANSWERS
    given = rig->device.n_values;
#endif
    for (unsigned i = given; rig->asked && i < RLX_SLOTS; i++) value[i] = rig->tells[i - given];
    return rig->returns;
}

#if RLX_FIXED
int rig_invoke(rlx_fn fn, void *user, rlx_value *value, const uint8_t *frame)
{
    return handler(fn, user, value, frame);
}
#endif

#if RLX_HAS_PACKET || RLX_HAS_TAGS || RLX_HAS_SEAL || RLX_HAS_REPORT || RLX_HAS_MESSAGE
static const struct lex_link *link_of(const struct rig *rig, unsigned link)
{
    return rig->lx->links->pdata[link];
}
#endif

struct rig *rig_of(struct lexicon *lx)
{
    struct rig *rig = g_new0(struct rig, 1);
    rig->lx = lx;
    rig->send_most = UINT_MAX;
    rig->image = image_build(lx);
    if (!rig->image) {
        fputs(lexicon_faults_text(lx, 20), stderr);
        exit(2);
    }
    if (lx->links->len > RIG_LINKS) {
        fprintf(stderr, "the rig is too small for %u links\n", lx->links->len);
        exit(2);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(rig->handlers); i++) rig->handlers[i] = (rlx_fn)handler;
    for (size_t i = 0; i < G_N_ELEMENTS(rig->invokers); i++) rig->invokers[i] = (rlx_fn)handler;
    for (unsigned i = 0; i < RIG_LINKS; i++) rig->sent[i] = g_string_new(NULL);
    rig->pins = g_string_new(NULL);
    return rig;
}

struct rig *rig_new(const char *file)
{
    GError *error = NULL;
    struct lexicon *lx = lexicon_read(file, &error);
    if (!lx) {
        fprintf(stderr, "%s\n", error->message);
        exit(2);
    }
    return rig_of(lx);
}

void rig_free(struct rig *rig)
{
    for (unsigned i = 0; i < RIG_LINKS; i++) g_string_free(rig->sent[i], TRUE);
    g_string_free(rig->pins, TRUE);
    g_free(rig->heard);
    image_free(rig->image);
    lexicon_free(rig->lx);
    g_free(rig);
}

int rig_start(struct rig *rig, uint32_t now_ms)
{
    memset(rig->link, 0, sizeof rig->link);
    memset(rig->senders, 0, sizeof rig->senders);
#if RLX_HAS_SEAL
    memset(rig->sessions, 0, sizeof rig->sessions);
#endif
#if RLX_HAS_EVENTS
    memset(rig->told, 0, sizeof rig->told);
#endif
#if RLX_HAS_SMS
    memset(rig->sms, 0, sizeof rig->sms);
#endif
#ifdef RIG_OUTPUTS
    memset(&rig->output, 0, sizeof rig->output);
#endif
#if RLX_HAS_ROUTINES
    memset(rig->routine, 0, sizeof rig->routine);
#endif
    rig->device = (struct rlx_device)
    {
#if !RLX_FIXED
        .image = rig->image->bytes->data, .handlers = rig->handlers, .invokers = rig->invokers,
        .links = rig->link, .outputs = rig->output,
#if RLX_HAS_INPUTS
        .inputs = rig->input,
#endif
#if RLX_HAS_ROUTINES
        .routines = rig->routine,
#endif
#if RLX_HAS_SETTINGS
        .settings = rig->setting, .setting_texts = rig->setting_texts,
#endif
#endif
#if RLX_HAS_SETTINGS && !RLX_NV_AREA_BYTES
        .nv_area = rig->nv_area ? rig->nv_area : 256,
#endif
        .port = &rig->board, .user = rig,
    };
    rig->now_ms = now_ms;
    rig->board.interrupts = (struct sim_interrupts){rig, on_receive, on_transmit, NULL, NULL};
    sim_board_init(&rig->board, sink, rig, now_ms, RLX_RESET_WATCHDOG);
    for (unsigned i = 0; i < rig->lx->links->len; i++) {
        g_string_truncate(rig->sent[i], 0);
#if !RLX_FIXED_BUFFER
        rig->link[i].buffer = rig->buffer[i];
#endif
#if RLX_HAS_TAGS
        if (link_of(rig, i)->tags) rig->link[i].senders = rig->senders[i];
#endif
#if RLX_HAS_SEAL
        if (link_of(rig, i)->seal) rig->link[i].sessions = rig->sessions[i];
#endif
#if RLX_HAS_EVENTS
        if (rig->lx->events->len) rig->link[i].events = rig->told[i];
#endif
#if RLX_HAS_SMS
        if (lex_drives_modem(link_of(rig, i))) rig->link[i].sms = &rig->sms[i];
#endif
    }
    g_string_truncate(rig->pins, 0);
    return rlx_init(&rig->device, RLX_RESET_WATCHDOG);
}

void rig_forget(struct rig *rig)
{
    for (unsigned i = 0; i < RIG_LINKS; i++) g_string_truncate(rig->sent[i], 0);
    g_string_truncate(rig->pins, 0);
}

struct rig *rig_started(const char *file, uint32_t now_ms)
{
    struct rig *rig = rig_new(file);
    if (rig_start(rig, now_ms) != 0) exit(2);
    rig_run(rig);
    rig_forget(rig);
    return rig;
}

struct rig *rig_of_text(const char *text)
{
    struct rig *rig = rig_of(lexicon_read_text("it.lexicon", g_strdup(text), strlen(text)));
    if (rig_start(rig, 0) != 0) exit(2);
    rig_run(rig);
    rig_forget(rig);
    return rig;
}

/* A packet or a message comes whole; reports are padded. */
void rig_feed(struct rig *rig, unsigned link, const char *bytes, size_t count)
{
#if RLX_HAS_PACKET
    if (link_of(rig, link)->frame == LEX_FRAME_PACKET) {
        if (count) rlx_link_feed_packet(&rig->link[link], (const uint8_t *)bytes, (uint8_t)count);
        return;
    }
#endif
#if RLX_HAS_REPORT
    if (link_of(rig, link)->frame == LEX_FRAME_REPORT) {
        while (count) {
            uint8_t report[RLX_REPORT] = {0}, n = (uint8_t)MIN(count, RLX_REPORT);
            memcpy(report, bytes, n);
            if (!rlx_link_feed_report(&rig->link[link], report, RLX_REPORT)) {
                rlx_poll(&rig->device, rig->now_ms);
                rlx_link_feed_report(&rig->link[link], report, RLX_REPORT);
            }
            bytes += n;
            count -= n;
        }
        return;
    }
#endif
#if RLX_HAS_MESSAGE
    if (link_of(rig, link)->frame == LEX_FRAME_MESSAGE) {
        if (count) rlx_link_message(&rig->device, (uint8_t)link, bytes, (uint8_t)count, 1);
        return;
    }
#endif
    for (size_t i = 0; i < count; i++)
        sim_board_in(&rig->board,
                     (struct sim_event){SIM_RECEIVED, (uint8_t)link, 0, (unsigned char)bytes[i]});
}

/* The transmitters get as far as they can. */
static void drain(struct rig *rig)
{
    for (uint8_t i = 0; i < rig->lx->links->len; i++)
        while (rig->board.sending[i])
            sim_board_in(&rig->board, (struct sim_event){SIM_SENT, i, 0, 0});
}

uint32_t rig_poll(struct rig *rig)
{
    rig->board.now_us += (uint64_t)(rig->now_ms - rig->polled_ms) * 1000;
    rig->polled_ms = rig->now_ms;
    return rlx_poll(&rig->device, rig->now_ms);
}

/* Raw bytes that no test has read: nothing else takes them, and the device would not come to rest.
 */
static void drop_raw(struct rig *rig)
{
#if RLX_HAS_RAW
    uint8_t bytes[RLX_RING_MAX];
    bool lost;
    for (unsigned i = 0; i < rig->lx->links->len; i++)
        while (rlx_raw_read(&rig->device, (uint8_t)i, bytes, sizeof bytes, &lost)) {}
#else
    (void)rig;
#endif
}

uint32_t rig_run(struct rig *rig)
{
    uint32_t wait;
    do {
        wait = rig_poll(rig);
        rig->now_ms++;
        drain(rig);
        drop_raw(rig);
    } while (!wait || !rlx_idle(&rig->device));
    return wait;
}

void rig_wait(struct rig *rig, uint32_t ms)
{
    uint32_t end = rig->now_ms + ms;
    while ((int32_t)(end - rig->now_ms) > 0) {
        uint32_t wait = rig_run(rig);
        if ((int32_t)(end - rig->now_ms) <= 0) break; /* it ran for longer than that */
        rig->now_ms += MIN(wait > 1 ? wait - 1 : 1, end - rig->now_ms);
    }
    rig_run(rig);
}

const char *rig_say(struct rig *rig, unsigned link, const char *text)
{
    g_string_truncate(rig->sent[link], 0);
    rig_feed(rig, link, text, strlen(text));
    rig_run(rig);
    return rig->sent[link]->str;
}

static const char *end_of(const struct lex_link *link)
{
    static char ended[2];
    ended[0] = link->end;
    if (link->frame == LEX_FRAME_LINE) return "\r";
    return link->frame == LEX_FRAME_ENDED ? ended : "";
}

/* The same in bytes. Takes the text over. */
static char *talk_bytes(struct rig *rig, unsigned number, GString *said)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    GByteArray *frame = layout_encode(link, said->str, 1);
    GString *heard = g_string_new(NULL), *sent = rig->sent[number];
    g_string_truncate(sent, 0);
    if (link->layout->channels) { /* which moves nothing before it was at rest */
        struct sticks sticks;
        sticks_rest(link, &sticks);
        GByteArray *rest = sticks_frame(link, &sticks);
        rig_feed(rig, number, (const char *)rest->data, rest->len);
        rig_wait(rig, link->gap + 1);
        g_byte_array_free(rest, TRUE);
    }
    if (frame) rig_feed(rig, number, (const char *)frame->data, frame->len);
    rig_wait(rig, link->gap + 1);
    for (size_t at = 0, used; at < sent->len; at += used) {
        const guint8 *bytes = (const guint8 *)sent->str + at;
        char *text = layout_decode(link, bytes, sent->len - at, &used);
        g_string_append_printf(heard, "%s\n", text);
        g_free(text);
    }
    if (frame) g_byte_array_free(frame, TRUE);
    g_string_free(said, TRUE);
    g_free(rig->heard);
    return rig->heard = g_string_free(heard, FALSE);
}

char *rig_talk(struct rig *rig, unsigned number, const char *text)
{
    const struct lex_link *link = rig->lx->links->pdata[number];
    GString *said = g_string_new(text), *sent = rig->sent[number];
    if (link->layout) return talk_bytes(rig, number, said);
    g_string_append(said, end_of(link));
    while (link->frame == LEX_FRAME_FIXED && said->len < link->length)
        g_string_append_c(said, link->pad);
    g_string_truncate(sent, 0);
    rig_feed(rig, number, said->str, said->len);
    rig_run(rig);
    if (link->frame == LEX_FRAME_GAP) rig_wait(rig, link->gap);
    g_string_free(said, TRUE);
    g_free(rig->heard);
    char *heard = rig->heard = g_malloc0(sent->len + 2);
    size_t n = 0;
    for (size_t i = 0; i < sent->len; i++) /* unused bytes of a report are 0 */
        if (sent->str[i] && sent->str[i] != '\r') heard[n++] = sent->str[i];
    if (link->frame == LEX_FRAME_ENDED && n && heard[n - 1] == link->end) n--;
    while (link->frame == LEX_FRAME_FIXED && n && heard[n - 1] == link->pad) n--;
    if (n && heard[n - 1] != '\n') heard[n++] = '\n';
    heard[n] = 0;
    return heard;
}

#if RLX_HAS_EVENTS
static void tell(struct rig *rig, char **words)
{
    for (unsigned i = 0; i < rig->lx->events->len; i++) {
        const struct lex_event *event = rig->lx->events->pdata[i];
        guint word = 0;
        if (strcmp(event->name, words[0])) continue;
        if (words[1])
            g_ptr_array_find_with_equal_func(event->what->words, words[1], g_str_equal, &word);
        rlx_event(&rig->device, (uint8_t)i, (uint8_t)word);
    }
}
#endif

#if RLX_HAS_UP

static void set_up(struct rig *rig, const char *link, bool up)
{
    for (unsigned i = 0; i < rig->lx->links->len; i++) {
        const struct lex_link *l = rig->lx->links->pdata[i];
        if (strcmp(l->name, link) != 0) continue;
        if (l->state_pin != LEX_NO_PIN)
            sim_board_in(&rig->board, (struct sim_event){SIM_PIN_IN, (uint8_t)l->state_pin, 0,
                                                         up != l->state_low});
        else
            rlx_link_is_up(&rig->device, (uint8_t)i, up);
    }
}
#endif

/* The pin of an input, at the level that is on or off. */
static bool move_pin(struct rig *rig, const char *what)
{
    char **words = g_strsplit(what, " ", 2);
    const struct lex_input *in = words[1] ? lexicon_input(rig->lx, words[0]) : NULL;
    bool on = in && !strcmp(words[1], "on"), level = in && (!strcmp(words[1], "off") || on);
    if (level)
        sim_board_in(&rig->board,
                     (struct sim_event){SIM_PIN_IN, (uint8_t)in->pin, 0, on != in->active_low});
    g_strfreev(words);
    return level;
}

/* The memory stays as it is, and what was said and done so far. */
static void reset(struct rig *rig)
{
    char *sent[RIG_LINKS], *pins = g_strdup(rig->pins->str);
    for (unsigned i = 0; i < RIG_LINKS; i++) sent[i] = g_strdup(rig->sent[i]->str);
    rig->board.nv_kept = true;
    if (rig_start(rig, rig->now_ms) != 0) exit(2);
    rig->board.nv_kept = false;
    for (unsigned i = 0; i < RIG_LINKS; i++) {
        g_string_prepend(rig->sent[i], sent[i]);
        g_free(sent[i]);
    }
    g_string_prepend(rig->pins, pins);
    g_free(pins);
}

#if RLX_HAS_SEAL
/* key NAME TEXT: the firmware gives it. */
static bool give_key(struct rig *rig, const char *what)
{
    char **words = g_strsplit(what, " ", 3);
    bool is = g_strv_length(words) == 3 && !strcmp(words[0], "key");
    guint setting = 0;
    if (is && g_ptr_array_find(rig->lx->settings, lexicon_setting(rig->lx, words[1]), &setting))
        is =
            rlx_key_store(&rig->device, (uint8_t)setting, words[2], (uint8_t)strlen(words[2])) == 0;
    g_strfreev(words);
    return is;
}
#endif

static void happen(struct rig *rig, const char *what)
{
    if (move_pin(rig, what)) return;
    if (!strcmp(what, "reset")) {
        reset(rig);
        return;
    }
#if RLX_HAS_SEAL
    if (give_key(rig, what)) return;
#endif
#if RLX_HAS_NOTES
    if (g_str_has_prefix(what, "note ")) {
        rlx_note(&rig->device, what + 5);
        return;
    }
#endif
    char **words = g_strsplit(what, " ", 2);
    bool up = !strcmp(words[0], "up");
#if RLX_HAS_UP
    if (up || !strcmp(words[0], "down")) set_up(rig, words[1], up);
#endif
#if RLX_HAS_EVENTS
    if (!up && strcmp(words[0], "down") != 0) tell(rig, words);
#endif
    (void)up;
    g_strfreev(words);
    (void)rig, (void)what;
}

bool rig_do(struct rig *rig, const char *line)
{
    if (!*line || !strchr("!?~", *line) || line[1] != ' ') return false;
    if (*line == '!') happen(rig, line + 2);
    if (*line == '~') rig_wait(rig, (uint32_t)atoi(line + 2));
    if (*line == '?') {
        char **numbers = g_strsplit(line + 2, " ", -1);
        for (unsigned i = 0; numbers[i] && i < RLX_SLOTS; i++)
            rig->tells[i] = (rlx_value)atoi(numbers[i]);
        rig->asked = true;
        g_strfreev(numbers);
    }
    rig_run(rig);
    return true;
}
