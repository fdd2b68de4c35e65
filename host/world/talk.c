#include "talk_parts.h"

#include <string.h>

#include "rlx/image.h"

/* The sender goes on when the link was silent for this long... */
#define QUIET_US 20000
/* ...or after this at the latest. */
#define PATIENCE_US 2000000
/* A controller knows what became of a command after this time. */
#define AIR_PATIENCE_US UINT64_C(7200000000)

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
    talk_said(t, link, '<', heard->str, heard->len);
    g_string_truncate(heard, 0);
}

static void on_out(void *user, struct sim_event event)
{
    struct talk *t = user;
    if (event.kind == SIM_PACKET) {
        struct way *way = talk_way(t, event.index);
        if (event.index < t->heard->len) on_packet(t, event.index, event.value);
        if (way) aerial_out(way->aerial, event);
        return;
    }
    if (event.kind == SIM_SEND) {
        if (event.index < t->serials->len)
            serial_send(t->serials->pdata[event.index], (uint8_t)event.value);
        return;
    }
    trace_event(t->options->trace, t->world->now_us, event);
    if (t->loads) loads_out(t->loads, event);
    if (t->options->plain) return;
    switch (event.kind) {
    case SIM_PIN: talk_pin(t, event.index, event.value != 0); break;
    case SIM_DUTY:
    case SIM_PULSE: talk_step(t, event); break;
    case SIM_TONE: talk_tone(t, event); break;
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
        talk_said(t, serial->uart, '<', line->str, line->len);
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
        uint64_t quiet =
            QUIET_US + 2 * ((uint64_t)serial->faults.late_us + serial->faults.clump_us);
        uint64_t until = going ? UINT64_MAX : MIN(t->last_us + quiet, latest);
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

/* The same on every link: for what was said on another one. */
static void until_all_quiet(struct talk *t)
{
    unsigned link = t->link;
    for (t->link = 0; t->link < t->serials->len; t->link++) until_quiet(t);
    t->link = link;
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

/* The level at an input pin, from now on. */
void talk_set_pin(struct talk *t, unsigned pin, bool high)
{
    struct sim_event event = {SIM_PIN_IN, (uint8_t)pin, 0, high};
    trace_event(t->options->trace, t->world->now_us, event);
    device_in(t->device, SIM_PIN_IN, (uint8_t)pin, high);
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
        talk_stamp(t, '!', link->name);
        fprintf(t->out, "%-6s (pin %u %s)\n", words[1], link->state_pin,
                up != link->state_low ? "high" : "low");
    }
    if (moves) {
        talk_set_pin(t, link->state_pin, up != link->state_low);
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
        talk_stamp(t, '!', in->name);
        fprintf(t->out, "%-6s (pin %u %s)\n", words[2], in->pin,
                on != in->active_low ? "high" : "low");
    }
    if (level && t->loads)
        loads_push(t->loads, in, on);
    else if (level)
        talk_set_pin(t, in->pin, on != in->active_low);
    if (level) until_quiet(t);
    g_strfreev(words);
    return level;
}

/* "! jam gate": something is broken. False: it is something else. */
static bool break_load(struct talk *t, const char *line)
{
    const char *name = strrchr(line, ' ');
    if (!t->loads || !g_str_has_prefix(line, "! ") || !loads_break(t->loads, line + 2))
        return false;
    if (!t->options->plain) {
        talk_stamp(t, '!', name + 1);
        talk_text(t, line + 2, (size_t)(name - line) - 2);
    }
    until_quiet(t);
    return true;
}

/* "! press feed", "! release feed", "! slide glow 40": somebody at a handset. False: something
 * else. */
static bool use_handset(struct talk *t, const char *line)
{
    char **words = g_strsplit(line, " ", 4);
    unsigned n = g_strv_length(words);
    bool down = n == 3 && !strcmp(words[1], "press");
    bool up = n == 3 && !strcmp(words[1], "release");
    bool slides = n == 4 && !strcmp(words[1], "slide");
    bool done = !strcmp(words[0] ? words[0] : "", "!") &&
                ((down || up) ? talk_press(t, words[2], down)
                              : slides && talk_slide(t, words[2], words[3]));
    if (done) until_all_quiet(t);
    g_strfreev(words);
    return done;
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
    talk_said(t, t->link, '<', heard->str, heard->len);
    g_string_truncate(heard, 0);
}

/* By the controller until it is told what became of it; else once, as it is. */
static void say_on_air(struct talk *t, struct way *way, const char *line, size_t count)
{
    uint64_t latest = t->world->now_us + AIR_PATIENCE_US;
    if (!way->controller) {
        radio_send(way->radio, way->sender, (const uint8_t *)line, (unsigned)count);
        until_quiet(t);
        return;
    }
    way->waits = true;
    if (controller_say(way->controller, line) < 0) {
        g_printerr("%s: \"%s\" is longer than a controller's command, %u bytes\n", g_get_prgname(),
                   line, RLX_ERRAND);
        return;
    }
    while (way->waits && !device_failure(t->device) && world_step(t->world, latest)) {}
    until_quiet(t);
}

/* A line as it is typed at a terminal: with what ends it, or key by key. */
static void type_line(struct talk *t, const char *line, size_t count)
{
    struct lex_link *link = t->lx->links->pdata[t->link];
    if (link->frame == LEX_FRAME_KEYS) {
        for (size_t i = 0; i < count; i++) {
            talk_said(t, t->link, '>', line + i, 1);
            type(t, line + i, 1);
            until_quiet(t);
        }
        return;
    }
    if (talk_way(t, t->link)) {
        say_on_air(t, talk_way(t, t->link), line, count);
        return;
    }
    talk_said(t, t->link, '>', line, count);
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
        bool done = let_pass(t, line) || move_link(t, line) || move_pin(t, line) ||
                    break_load(t, line) || use_handset(t, line);
        if (!done && g_str_has_prefix(line, "! "))
            g_printerr("%s: \"%s\": no input, link, button or slider moves by that%s\n",
                       g_get_prgname(), line, t->loads ? ", and no load breaks" : "");
        else if (!done)
            type_line(t, line, (size_t)count);
        talk_tell_ramp(t);
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
    talk_said(t, t->link, '>', line->str, line->len);
    g_string_free(line, TRUE);
    until_quiet(t);
}

/* ---- begin and end ---- */

static void free_string(void *p)
{
    g_string_free(p, TRUE);
}

static void on_load_pin(void *user, uint8_t pin, bool high)
{
    talk_set_pin(user, pin, high);
}

static void on_load(void *user, const char *name, const char *what)
{
    struct talk *t = user;
    trace_text(t->options->trace, t->world->now_us, "load", name, what, strlen(what));
    if (t->options->plain) return;
    talk_stamp(t, ':', name);
    fprintf(t->out, "%s\n", what);
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
    if (t->options->loads)
        t->loads = loads_new(t->world, t->lx, t->options->seed,
                             (struct loads_ends){t, on_load_pin, on_load});
    for (unsigned i = 0; i < t->lx->links->len; i++) {
        struct lex_link *link = t->lx->links->pdata[i];
        struct serial *serial = serial_new(t->world, link->baud ? link->baud : 9600, (uint8_t)i);
        serial->device = t->device;
        serial->on_byte = on_byte;
        serial->user = t;
        g_ptr_array_add(t->serials, serial);
        g_ptr_array_add(t->heard, g_string_new(NULL));
    }
    talk_begin_handsets(t);
    talk_begin_world(t);
    return true;
}

static void end(struct talk *t)
{
    for (unsigned i = 0; i < t->heard->len; i++) { /* a line that never ended */
        GString *line = t->heard->pdata[i];
        if (line->len) talk_said(t, i, '<', line->str, line->len);
    }
    g_free(t->typed);
    if (t->ways) talk_end_world(t);
    if (t->presses) g_ptr_array_free(t->presses, TRUE);
    device_free(t->device);
    loads_free(t->loads);
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
    t.ramp.step.kind = SIM_SLEEP;
    bool ok = false;
    if (!find_link(&t, error)) return false;
    if (begin(&t, image, error)) {
        if (!options->plain)
            fprintf(out,
                    "# %s %u, simulated: seconds; > said, < answered, = what an output does%s%s\n",
                    lx->name, lx->version, options->loads ? ", : what hangs on it" : "",
                    options->world ? ", x what became of it, @ what a controller knows" : "");
        device_start(t.device, on_out, &t);
        t.started = true;
        talk_bridges(&t);
        if (t.loads) loads_begin(t.loads);
        until_quiet(&t);
        enum lex_frame frame = link_at(&t, t.link)->frame;
        if (frame >= LEX_FRAME_ENDED && frame < LEX_FRAME_PACKET) until_said(&t);
        tell_heard(&t); /* a greeting that no line end ends */
        if (options->raw)
            pour(&t, in);
        else
            converse(&t, in);
        if (!device_failure(t.device)) until_said(&t);
        talk_tell_ramp(&t);
        fflush(out);
        ok = !device_failure(t.device);
        if (!ok)
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s", device_failure(t.device));
    }
    end(&t);
    return ok;
}
