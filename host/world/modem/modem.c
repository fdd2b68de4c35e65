/* A stand-in for a modem: V.250 command lines, answers, unsolicited result codes.
 * A command is looked up, done and answered; faults of the world change that.
 * It is not a model of any product. */
#include "world/modem/modem_parts.h"

#include <ctype.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>

#define LINE_MOST 400u

/* ---- to the device ---- */

static void say_byte(struct sms_modem *m, uint8_t byte)
{
    if (byte == GSM_AT && m->charset == CHARSET_GSM) byte = 0;
    if (draw_happens(&m->draw, m->manner.rubbish)) byte = (uint8_t)draw_below(&m->draw, 256);
    m->says(m->user, byte);
    bool prompt = byte == ' ' && !strcmp(m->to_line->str, ">");
    if (byte != '\r' && byte != '\n' && !prompt) {
        g_string_append_c(m->to_line, (char)byte);
    } else if (m->to_line->len) {
        if (m->line) m->line(m->user, false, m->to_line->str);
        g_string_truncate(m->to_line, 0);
    }
}

/* What stands between the bytes of an answer where a modem does not mind. */
static void say_between(struct sms_modem *m)
{
    for (const char *p = "\r\n+CREG: 1\r\n"; *p; p++) say_byte(m, (uint8_t)*p);
}

void modem_emit(struct sms_modem *m, const char *bytes)
{
    if (m->manner.silent || m->off) return;
    for (const char *p = bytes; *p; p++) {
        m->said++;
        if (m->said == m->interrupt_at || draw_happens(&m->draw, m->manner.chatty)) say_between(m);
        say_byte(m, (uint8_t)*p);
    }
}

void modem_interrupt(struct sms_modem *m, unsigned at)
{
    m->said = 0;
    m->interrupt_at = at;
}

/* V.250, 5.7.1: <CR><LF>text<CR><LF>, without the first two where results are numbers. */
static void emit_line(struct sms_modem *m, const char *text)
{
    char end[3] = {(char)m->registers[S_END], (char)m->registers[S_FEED], 0};
    char *line = g_strconcat(m->verbose ? end : "", text, end, NULL);
    modem_emit(m, line);
    g_free(line);
}

void modem_info(struct sms_modem *m, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    char *text = g_strdup_vprintf(format, args);
    va_end(args);
    emit_line(m, text);
    g_free(text);
}

void modem_notice(struct sms_modem *m, const char *text)
{
    char *line = g_strconcat("\r\n", text, "\r\n", NULL);
    modem_emit(m, line);
    g_free(line);
}

void modem_result(struct sms_modem *m, unsigned outcome)
{
    char end[2] = {(char)m->registers[S_END], 0};
    m->busy = false;
    if (outcome == OUTCOME_LATER || m->quiet) return;
    if (outcome >= OUTCOME_CME && m->numbers) {
        modem_info(m, "+CME ERROR: %u", outcome - OUTCOME_CME);
    } else if (outcome >= OUTCOME_CMS && outcome < OUTCOME_CME) {
        modem_info(m, "+CMS ERROR: %u", outcome - OUTCOME_CMS);
    } else if (m->verbose) {
        emit_line(m, outcome ? "ERROR" : "OK");
    } else {
        modem_emit(m, outcome ? "4" : "0");
        modem_emit(m, end);
    }
}

/* ---- commands of V.250 ---- */

static void set_standard(struct sms_modem *m)
{
    m->echo = m->verbose = true;
    m->quiet = m->details = false;
    m->numbers = m->operator_format = 0;
    m->charset = CHARSET_IRA;
    memset(m->registers, 0, sizeof m->registers);
    m->registers[S_END] = '\r';
    m->registers[S_FEED] = '\n';
    m->registers[S_BACK] = '\b';
    m->registration_told = m->notice = m->reports = 0;
    m->text_mode = m->manner.text_first;
    m->first = 17;
    m->validity = 167;
    m->protocol = m->coding = 0;
    m->entry = ENTRY_COMMAND;
    m->busy = false;
    g_string_truncate(m->command, 0);
    g_string_truncate(m->text, 0);
}

/* S3=13, S3? */
static unsigned take_register(struct sms_modem *m, const char **at)
{
    char *end;
    unsigned long number = strtoul(*at, &end, 10), value = 0;
    if (end == *at || number >= S_REGISTERS) return OUTCOME_ERROR;
    *at = end;
    if (**at == '?') {
        ++*at;
        modem_info(m, "%03u", m->registers[number]);
        return OUTCOME_OK;
    }
    if (**at != '=') return OUTCOME_ERROR;
    value = strtoul(*at + 1, &end, 10);
    *at = end;
    if (value > 127) return OUTCOME_ERROR;
    m->registers[number] = (uint8_t)value;
    return OUTCOME_OK;
}

static unsigned take_switch(unsigned long number, bool *flag)
{
    if (number > 1) return OUTCOME_ERROR;
    *flag = number == 1;
    return OUTCOME_OK;
}

/* One basic command with its number. */
static unsigned basic(struct sms_modem *m, const char **at)
{
    char letter = (char)toupper((unsigned char)*(*at)++);
    if (letter == 'S') return take_register(m, at);
    if (letter == '&') letter = (char)(toupper((unsigned char)*(*at)++) | 0x80);
    char *end;
    unsigned long number = strtoul(*at, &end, 10);
    *at = end;
    switch ((unsigned char)letter) {
    case 'E': return take_switch(number, &m->echo);
    case 'Q': return take_switch(number, &m->quiet);
    case 'V': return take_switch(number, &m->verbose);
    case 'H':
    case 'X': return OUTCOME_OK;
    case 'I': modem_info(m, "simulated modem"); return OUTCOME_OK;
    case 'Z':
    case 'F' | 0x80: set_standard(m); return OUTCOME_OK;
    default: return OUTCOME_ERROR;
    }
}

/* Where an extended command ends: at ';' outside quotes. */
static const char *end_of(const char *at)
{
    bool quoted = false;
    for (; *at && (quoted || *at != ';'); at++) quoted ^= *at == '"';
    return at;
}

static unsigned extended(struct sms_modem *m, const char **at)
{
    const char *end = end_of(*at), *name = *at + 1, *rest = name;
    while (rest < end && (isalnum((unsigned char)*rest))) rest++;
    char *upper = g_ascii_strup(name, rest - name), *tail = g_strndup(rest, (gsize)(end - rest));
    unsigned outcome = modem_command(m, upper, g_strchomp(tail));
    g_free(upper);
    g_free(tail);
    *at = *end ? end + 1 : end;
    return outcome;
}

/* All commands of a line, up to the first that fails. */
static void run_line(struct sms_modem *m)
{
    unsigned outcome = OUTCOME_OK;
    for (const char *at = m->last->str; *at && outcome == OUTCOME_OK;) {
        if (*at == ' ' || *at == ';')
            at++;
        else
            outcome = *at == '+' ? extended(m, &at) : basic(m, &at);
    }
    if (outcome != OUTCOME_LATER) modem_result(m, outcome);
}

static void on_run(void *data, uint32_t version)
{
    struct sms_modem *m = data;
    if (version == m->version) run_line(m);
}

/* ---- from the device ---- */

static void begin(struct sms_modem *m)
{
    const char *at = m->command->str;
    while (*at && g_ascii_strncasecmp(at, "AT", 2) != 0) at++;
    if (*at) {
        if (m->line) m->line(m->user, true, at);
        g_string_assign(m->last, at + 2);
        m->busy = true;
        world_at(m->world, m->world->now_us + m->manner.answers_us, on_run, m, m->version);
    }
    g_string_truncate(m->command, 0);
}

static void repeat(struct sms_modem *m)
{
    g_string_truncate(m->command, 0);
    m->busy = true;
    world_at(m->world, m->world->now_us + m->manner.answers_us, on_run, m, m->version);
}

static void hear_command(struct sms_modem *m, uint8_t byte)
{
    GString *c = m->command;
    if (byte == m->registers[S_END]) {
        begin(m);
    } else if (byte == m->registers[S_BACK]) {
        if (c->len) g_string_truncate(c, c->len - 1);
    } else if (byte >= ' ' && byte < 127) {
        if (c->len < LINE_MOST) g_string_append_c(c, (char)byte);
        bool again = c->len >= 2 && (c->str[c->len - 2] | 32) == 'a' && byte == '/';
        if (again) repeat(m);
    }
}

static void hear_text(struct sms_modem *m, uint8_t byte)
{
    if (byte == 0x1A || byte == 0x1B) {
        if (m->line) m->line(m->user, true, byte == 0x1A ? m->text->str : "(escape)");
        m->entry = ENTRY_COMMAND;
        m->busy = true;
        if (byte == 0x1A)
            modem_entered(m);
        else
            modem_result(m, OUTCOME_OK);
        return;
    }
    if (byte == '\r' && m->text_mode) modem_emit(m, "\r\n> ");
    if (byte == '\b' && m->text->len)
        g_string_truncate(m->text, m->text->len - 1);
    else if (byte != '\n' && m->text->len < LINE_MOST)
        g_string_append_c(m->text, byte == '\r' ? '\n' : (char)byte);
}

void modem_hear(struct sms_modem *m, uint8_t byte)
{
    char echo[2] = {(char)byte, 0};
    m->heard++;
    if (m->off || m->manner.silent) return;
    if (m->echo && byte && byte != '\n') modem_emit(m, echo);
    if (!byte && m->entry == ENTRY_TEXT && m->charset == CHARSET_GSM) byte = GSM_AT;
    if (m->entry == ENTRY_TEXT)
        hear_text(m, byte);
    else if (!m->busy) /* V.250, 5.6.1: what comes before the result is lost */
        hear_command(m, byte);
}

/* ---- begin and end ---- */

struct sms_modem *modem_new(struct world *world, struct network *network, uint32_t seed,
                            modem_says says, modem_line line, void *user)
{
    struct sms_modem *m = g_new0(struct sms_modem, 1);
    m->world = world;
    m->network = network;
    m->draw = draw_from(seed);
    m->says = says;
    m->line = line;
    m->user = user;
    m->manner = (struct sms_manner){.answers_us = 20000, .sends_us = 2000000, .places = 10};
    m->command = g_string_new(NULL);
    m->last = g_string_new(NULL);
    m->text = g_string_new(NULL);
    m->to_line = g_string_new(NULL);
    set_standard(m);
    return m;
}

void modem_free(struct sms_modem *m)
{
    if (!m) return;
    for (unsigned i = 0; i < G_N_ELEMENTS(m->store); i++)
        if (m->store[i].tpdu) g_byte_array_free(m->store[i].tpdu, TRUE);
    g_string_free(m->command, TRUE);
    g_string_free(m->last, TRUE);
    g_string_free(m->text, TRUE);
    g_string_free(m->to_line, TRUE);
    g_free(m->to);
    g_free(m);
}

struct sms_manner *modem_manner(struct sms_modem *m)
{
    return &m->manner;
}

void modem_reset(struct sms_modem *m)
{
    m->version++;
    set_standard(m);
}

void modem_power(struct sms_modem *m, bool on)
{
    if (m->off != !on) modem_reset(m);
    m->off = !on;
}

unsigned modem_stored(const struct sms_modem *m)
{
    unsigned n = 0;
    for (unsigned i = 1; i <= m->manner.places; i++) n += m->store[i].tpdu != NULL;
    return n;
}

bool modem_is_busy(const struct sms_modem *m)
{
    return m->busy || m->entry == ENTRY_TEXT || m->command->len;
}

unsigned modem_said(const struct sms_modem *m)
{
    return m->said;
}

unsigned modem_heard(const struct sms_modem *m)
{
    return m->heard;
}

unsigned modem_sent(const struct sms_modem *m)
{
    return m->sent;
}
