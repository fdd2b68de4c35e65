#include "talk.h"

#include <string.h>

#include "device.h"
#include "rlx/image.h"
#include "serial.h"

/* The sender goes on when the link was silent for this long... */
#define QUIET_US 20000
/* ...or after this at the latest. */
#define PATIENCE_US 2000000

struct talk {
    struct lexicon *lx;
    const struct talk_options *options;
    FILE *out;
    struct world *world;
    struct device *device;
    GPtrArray *serials; /* struct serial *, by link */
    GPtrArray *heard;   /* GString *, by link: the line that is coming in */
    char *typed;        /* on a link for people: what comes back first, and is not told */
    unsigned link;
    uint64_t last_us; /* last byte on the link */
};

/* ---- what is printed ---- */

static void stamp(const struct talk *t, char mark, const char *what)
{
    fprintf(t->out, "%4" G_GUINT64_FORMAT ".%06u  %c  %-7s ", t->world->now_us / 1000000,
            (unsigned)(t->world->now_us % 1000000), mark, what);
}

/* Text, with what cannot be seen as \xNN. */
static void print_text(const struct talk *t, const char *text, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        unsigned char c = (unsigned char)text[i];
        if (c >= ' ' && c <= '~')
            fputc(c, t->out);
        else
            fprintf(t->out, "\\x%02X", c);
    }
    fputc('\n', t->out);
}

static void print_said(const struct talk *t, unsigned link, char mark, const char *text,
                       size_t count)
{
    struct lex_link *l = t->lx->links->pdata[link];
    if (t->options->plain) return;
    stamp(t, mark, l->name);
    print_text(t, text, count);
}

static const struct lex_output *output_at(const struct talk *t, bool pwm, unsigned pin)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->pwm == pwm && out->pin == pin) return out;
    }
    return NULL;
}

/* The reverser that has a relay on this pin. */
static const struct lex_output *reverser_at(const struct talk *t, unsigned pin)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->kind == LEX_REVERSER && (out->open.pin == pin || out->close.pin == pin))
            return out;
    }
    return NULL;
}

/* What a motor's wire is: its name, and what the wire does; NULL: it is none. */
static const struct lex_output *motor_at(const struct talk *t, bool pwm, unsigned pin,
                                         const char **wire)
{
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        bool pair = out->kind == LEX_PAIR;
        if (out->kind != LEX_MOTOR && !pair) continue;
        for (unsigned side = 0; side < 1u + pair; side++) {
            const struct lex_drive *drive = side ? &out->right : &out->left;
            *wire = pwm && drive->channel == pin      ? (side   ? "right"
                                                         : pair ? "left"
                                                                : "drive")
                    : pwm && drive->other == pin      ? "back"
                    : !pwm && drive->direction == pin ? "direction"
                    : !pwm && drive->brake == pin     ? "brake"
                                                      : NULL;
            if (*wire) return out;
        }
    }
    return NULL;
}

static void print_pin(const struct talk *t, unsigned pin, bool high)
{
    const char *wire;
    const struct lex_output *motor = motor_at(t, false, pin, &wire);
    if (motor) {
        stamp(t, '=', motor->name);
        fprintf(t->out, "%s (pin %u %s)\n", wire, pin, high ? "high" : "low");
        return;
    }
    const struct lex_output *reverser = reverser_at(t, pin);
    if (reverser) {
        stamp(t, '=', reverser->name);
        fprintf(t->out, "%s %-3s (pin %u %s)\n", pin == reverser->open.pin ? "opening" : "closing",
                high != reverser->active_low ? "on" : "off", pin, high ? "high" : "low");
        return;
    }
    const struct lex_output *out = output_at(t, false, pin);
    stamp(t, '=', out ? out->name : "?");
    fprintf(t->out, "%-6s (pin %u %s)\n",
            !out                      ? ""
            : high != out->active_low ? "on"
                                      : "off",
            pin, high ? "high" : "low");
}

static void print_duty(const struct talk *t, unsigned channel, unsigned duty)
{
    const char *wire;
    const struct lex_output *motor = motor_at(t, true, channel, &wire);
    if (motor) {
        stamp(t, '=', motor->name);
        fprintf(t->out, "%s %3u %% (pwm %u duty %u of 65535)\n", wire, (duty * 100 + 32767) / 65535,
                channel, duty);
        return;
    }
    const struct lex_output *out = output_at(t, true, channel);
    unsigned level = out && out->active_low ? 65535 - duty : duty;
    stamp(t, '=', out ? out->name : "?");
    fprintf(t->out, "%3u %%  (pwm %u duty %u of 65535)\n", (level * 100 + 32767) / 65535, channel,
            duty);
}

/* A servo's pulse, or a buzzer's pitch. */
static void print_number(const struct talk *t, enum lex_output_kind kind, struct sim_event event,
                         const char *unit)
{
    const char *name = "?";
    for (unsigned i = 0; i < t->lx->outputs->len; i++) {
        const struct lex_output *out = t->lx->outputs->pdata[i];
        if (out->kind == kind && out->pwm && out->pin == event.index) name = out->name;
    }
    stamp(t, '=', name);
    fprintf(t->out, "%u %s (pwm %u)\n", event.value, unit, event.index);
}

/* ---- what happens ---- */

static const struct lex_link *link_at(const struct talk *t, unsigned link)
{
    return t->lx->links->pdata[link];
}

/* Whether nothing goes over it byte by byte. */
static bool in_packets(const struct lex_link *link)
{
    return link->frame >= LEX_FRAME_PACKET;
}

/* A packet or message is told when it is over; a line may come in several reports, whose unused
 * bytes are 0. */
static void on_packet(struct talk *t, unsigned link, unsigned value)
{
    GString *heard = t->heard->pdata[link];
    bool report = link_at(t, link)->frame == LEX_FRAME_REPORT;
    bool end = report ? value == '\n' : value == 256;
    if (link == t->link) t->last_us = t->world->now_us;
    if (value < 256 && !(report && (!value || value == '\r' || value == '\n')))
        g_string_append_c(heard, (char)value);
    if (!end) return;
    if (t->options->plain && link == t->link) fprintf(t->out, "%s\n", heard->str);
    print_said(t, link, '<', heard->str, heard->len);
    g_string_truncate(heard, 0);
}

static void on_out(void *user, struct sim_event event)
{
    struct talk *t = user;
    if (event.kind == SIM_PACKET) {
        if (event.index < t->heard->len) on_packet(t, event.index, event.value);
        return;
    }
    if (event.kind == SIM_SEND) {
        if (event.index < t->serials->len)
            serial_send(t->serials->pdata[event.index], (uint8_t)event.value);
        return;
    }
    if (t->options->plain) return;
    switch (event.kind) {
    case SIM_PIN: print_pin(t, event.index, event.value != 0); break;
    case SIM_DUTY: print_duty(t, event.index, event.value); break;
    case SIM_PULSE: print_number(t, LEX_SERVO, event, "us"); break;
    case SIM_TONE: print_number(t, LEX_BUZZER, event, "Hz"); break;
    default: break;
    }
}

/* Whether the line is the echo of what was typed, which a terminal shows already. */
static bool is_echo(struct talk *t, unsigned link, const GString *line)
{
    bool echo = link == t->link && t->typed && g_str_has_prefix(line->str, "> ") &&
                !strcmp(t->typed, line->str + 2);
    if (echo) g_clear_pointer(&t->typed, g_free);
    return echo;
}

/* The device's lines end with CR LF. */
static void on_byte(void *user, struct serial *serial, uint8_t byte)
{
    struct talk *t = user;
    GString *line = t->heard->pdata[serial->uart];
    bool held = serial->uart == t->link && link_at(t, t->link)->people && !t->options->raw;
    if (serial->uart == t->link) t->last_us = t->world->now_us;
    if (t->options->plain && !held) {
        if (serial->uart == t->link) fputc(byte, t->out);
        return;
    }
    if (byte != '\n') {
        g_string_append_c(line, (char)byte);
        return;
    }
    if (line->len && line->str[line->len - 1] == '\r') g_string_truncate(line, line->len - 1);
    if (!is_echo(t, serial->uart, line)) {
        if (t->options->plain) fprintf(t->out, "%s\r\n", line->str);
        print_said(t, serial->uart, '<', line->str, line->len);
    }
    g_string_truncate(line, 0);
}

/* Lets time pass until nothing goes over the link any more. */
static void until_quiet(struct talk *t)
{
    uint64_t latest = t->world->now_us + PATIENCE_US;
    struct serial *serial = t->serials->pdata[t->link];
    t->last_us = t->world->now_us;
    for (;;) {
        bool going = serial->typing || serial->to_device.free_us > t->world->now_us;
        uint64_t until = going ? UINT64_MAX : MIN(t->last_us + QUIET_US, latest);
        if (!world_step(t->world, until)) break;
        if (going) t->last_us = t->world->now_us, latest = t->last_us + PATIENCE_US;
        if (device_failure(t->device)) break;
    }
}

/* Lets the other links bring to its end what is on their wires. */
static void until_said(struct talk *t)
{
    uint64_t latest = t->world->now_us + PATIENCE_US;
    for (;;) {
        uint64_t busy = 0;
        for (unsigned i = 0; i < t->serials->len; i++)
            busy = MAX(busy, ((struct serial *)t->serials->pdata[i])->to_terminal.free_us);
        busy = MIN(busy, latest);
        if (busy <= t->world->now_us) return;
        while (busy > t->world->now_us && world_step(t->world, busy)) {}
    }
}

static void type(struct talk *t, const char *bytes, size_t count)
{
    serial_type(t->serials->pdata[t->link], (const uint8_t *)bytes, count);
}

/* ---- the sender ---- */

/* "~ 2s": so much time goes by. False: it is something else. */
static bool let_pass(struct talk *t, const char *line)
{
    struct lex_element any = {.kind = LEX_NUMBER, .form = LEX_TIME, .high = 86400000};
    int32_t ms;
    if (line[0] != '~' || line[1] != ' ' || !lex_value_said(&any, line + 2, &ms)) return false;
    uint64_t until = t->world->now_us + (uint64_t)ms * 1000;
    while (until > t->world->now_us && world_step(t->world, until))
        if (device_failure(t->device)) break;
    return true;
}

/* All of it at once, or in reports of 64 bytes with a line end behind it. */
static void send_packet(struct talk *t, const char *bytes, size_t count)
{
    const struct lex_link *link = link_at(t, t->link);
    uint8_t packet[255];
    if (link->frame != LEX_FRAME_REPORT) {
        size_t n = MIN(count, sizeof packet);
        memcpy(packet, bytes, n);
        device_packet(t->device, (uint8_t)t->link, packet, (unsigned)n);
        return;
    }
    for (size_t at = 0; at <= count; at += RLX_REPORT) {
        size_t n = MIN(count - at, RLX_REPORT);
        memset(packet, 0, sizeof packet);
        memcpy(packet, bytes + at, n);
        if (n < RLX_REPORT) packet[n] = '\r';
        device_packet(t->device, (uint8_t)t->link, packet, RLX_REPORT);
    }
}

/* "! up skiff": the level at a link's state pin. False: it is something else. */
static bool move_link(struct talk *t, const char *line)
{
    char **words = g_strsplit(line, " ", 3);
    bool here = g_strv_length(words) == 3 && !strcmp(words[0], "!");
    const struct lex_link *link = here ? lexicon_link(t->lx, words[2]) : NULL;
    bool up = link && !strcmp(words[1], "up"), moves = up || (link && !strcmp(words[1], "down"));
    moves = moves && link->state_pin != LEX_NO_PIN;
    if (moves && !t->options->plain) {
        stamp(t, '!', link->name);
        fprintf(t->out, "%-6s (pin %u %s)\n", words[1], link->state_pin,
                up != link->state_low ? "high" : "low");
    }
    if (moves) {
        device_in(t->device, SIM_PIN_IN, (uint8_t)link->state_pin, up != link->state_low);
        until_quiet(t);
    }
    g_strfreev(words);
    return moves;
}

/* "! upper on": the level at an input's pin. False: it is something else. */
static bool move_pin(struct talk *t, const char *line)
{
    char **words = g_strsplit(line, " ", 3);
    bool here = g_strv_length(words) == 3 && !strcmp(words[0], "!");
    const struct lex_input *in = here ? lexicon_input(t->lx, words[1]) : NULL;
    bool on = in && !strcmp(words[2], "on"), level = in && (on || !strcmp(words[2], "off"));
    if (level && !t->options->plain) {
        stamp(t, '!', in->name);
        fprintf(t->out, "%-6s (pin %u %s)\n", words[2], in->pin,
                on != in->active_low ? "high" : "low");
    }
    if (level) {
        device_in(t->device, SIM_PIN_IN, (uint8_t)in->pin, on != in->active_low);
        until_quiet(t);
    }
    g_strfreev(words);
    return level;
}

/* What ends a frame that is no line: its last character, or what fills it. */
static void type_end(struct talk *t, const struct lex_link *link, size_t count)
{
    if (link->frame == LEX_FRAME_LINE) type(t, "\r", 1);
    if (link->frame == LEX_FRAME_ENDED) type(t, &link->end, 1);
    for (; link->frame == LEX_FRAME_FIXED && count < link->length; count++) type(t, &link->pad, 1);
}

/* Answers that no line end ends are told when it is quiet. */
static void tell_heard(struct talk *t)
{
    const struct lex_link *link = t->lx->links->pdata[t->link];
    GString *heard = t->heard->pdata[t->link];
    if (link->frame < LEX_FRAME_ENDED || !heard->len) return;
    print_said(t, t->link, '<', heard->str, heard->len);
    g_string_truncate(heard, 0);
}

/* A line as it is typed at a terminal: with what ends it, or key by key. */
static void type_line(struct talk *t, const char *line, size_t count)
{
    struct lex_link *link = t->lx->links->pdata[t->link];
    if (link->frame == LEX_FRAME_KEYS) {
        for (size_t i = 0; i < count; i++) {
            print_said(t, t->link, '>', line + i, 1);
            type(t, line + i, 1);
            until_quiet(t);
        }
        return;
    }
    print_said(t, t->link, '>', line, count);
    if (in_packets(link)) {
        send_packet(t, line, count);
        until_quiet(t);
        return;
    }
    if (link->people) {
        g_free(t->typed);
        t->typed = g_strdup(line);
    }
    type(t, line, count);
    type_end(t, link, count);
    until_quiet(t);
    if (link->frame >= LEX_FRAME_ENDED) until_said(t);
    tell_heard(t);
}

static void converse(struct talk *t, FILE *in)
{
    char *line = NULL;
    size_t size = 0;
    ssize_t count;
    while (!device_failure(t->device)) {
        if (t->options->prompt) fprintf(t->out, "> "), fflush(t->out);
        if ((count = getline(&line, &size, in)) < 0) break;
        if (count && line[count - 1] == '\n') count--;
        if (count && line[count - 1] == '\r') count--;
        line[count] = 0;
        if (!let_pass(t, line) && !move_link(t, line) && !move_pin(t, line))
            type_line(t, line, (size_t)count);
        fflush(t->out);
    }
    free(line);
}

static void pour(struct talk *t, FILE *in)
{
    int c;
    GString *line = g_string_new(NULL);
    while ((c = getc(in)) != EOF) {
        char byte = (char)c;
        type(t, &byte, 1);
        g_string_append_c(line, byte);
    }
    print_said(t, t->link, '>', line->str, line->len);
    g_string_free(line, TRUE);
    until_quiet(t);
}

/* ---- begin and end ---- */

static void free_string(void *p)
{
    g_string_free(p, TRUE);
}

static bool begin(struct talk *t, const struct image *image, GError **error)
{
    t->world = world_new();
    t->serials = g_ptr_array_new_with_free_func((GDestroyNotify)serial_free);
    t->heard = g_ptr_array_new_with_free_func(free_string);
    t->device = t->options->firmware
                    ? device_of_program(t->world, t->options->firmware, t->options->start_ms, error)
                    : device_of_image(t->world, t->lx, image, t->options->start_ms, error);
    if (!t->device) return false;
    for (unsigned i = 0; i < t->lx->links->len; i++) {
        struct lex_link *link = t->lx->links->pdata[i];
        struct serial *serial = serial_new(t->world, link->baud ? link->baud : 9600, (uint8_t)i);
        serial->device = t->device;
        serial->on_byte = on_byte;
        serial->user = t;
        g_ptr_array_add(t->serials, serial);
        g_ptr_array_add(t->heard, g_string_new(NULL));
    }
    return true;
}

static void end(struct talk *t)
{
    for (unsigned i = 0; i < t->heard->len; i++) { /* a line that never ended */
        GString *line = t->heard->pdata[i];
        if (line->len) print_said(t, i, '<', line->str, line->len);
    }
    g_free(t->typed);
    device_free(t->device);
    g_ptr_array_free(t->serials, TRUE);
    g_ptr_array_free(t->heard, TRUE);
    world_free(t->world);
}

static bool find_link(struct talk *t, GError **error)
{
    GString *names = g_string_new(NULL);
    for (t->link = 0; t->link < t->lx->links->len; t->link++) {
        struct lex_link *link = t->lx->links->pdata[t->link];
        if (!t->options->link || !strcmp(link->name, t->options->link)) break;
        g_string_append_printf(names, "%s%s", t->link ? ", " : "", link->name);
    }
    bool found = t->link < t->lx->links->len;
    if (!found)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "there is no link '%s'; there are: %s",
                    t->options->link, names->str);
    g_string_free(names, TRUE);
    return found;
}

bool talk(struct lexicon *lx, const struct image *image, const struct talk_options *options,
          FILE *in, FILE *out, GError **error)
{
    struct talk t = {.lx = lx, .options = options, .out = out};
    bool ok = false;
    if (!find_link(&t, error)) return false;
    if (begin(&t, image, error)) {
        if (!options->plain)
            fprintf(out, "# %s %u, simulated: seconds; > said, < answered, = what an output does\n",
                    lx->name, lx->version);
        device_start(t.device, on_out, &t);
        until_quiet(&t);
        if (options->raw)
            pour(&t, in);
        else
            converse(&t, in);
        if (!device_failure(t.device)) until_said(&t);
        fflush(out);
        ok = !device_failure(t.device);
        if (!ok)
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", device_failure(t.device));
    }
    end(&t);
    return ok;
}
