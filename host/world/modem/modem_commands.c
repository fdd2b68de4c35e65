/* Commands of 3GPP TS 27.007, and the values behind '='.
 * A table of commands with their least and most values.
 * Messages are in modem_messages.c. */
#include "world/modem/modem_parts.h"

#include <limits.h>
#include <stdlib.h>
#include <string.h>

/* Where the n-th value of a list begins; NULL: there are fewer. */
static const char *nth(const char *rest, unsigned n)
{
    bool quoted = false;
    const char *at = *rest == '=' ? rest + 1 : rest;
    for (; n; at++) {
        if (!*at) return NULL;
        quoted ^= *at == '"';
        if (*at == ',' && !quoted) n--;
    }
    return at;
}

bool modem_value(const char *rest, unsigned n, unsigned standard, unsigned *value)
{
    const char *at = nth(rest, n);
    char *end;
    *value = standard;
    if (!at || !*at || *at == ',') return true;
    unsigned long number = strtoul(at, &end, 10);
    *value = (unsigned)MIN(number, UINT_MAX);
    return end != at && (!*end || *end == ',');
}

char *modem_text_value(const char *rest, unsigned n)
{
    const char *at = nth(rest, n);
    if (!at) return g_strdup("");
    bool quoted = *at == '"';
    at += quoted;
    return g_strndup(at, strcspn(at, quoted ? "\"" : ","));
}

/* =N, of 0..most, into *flag. */
static unsigned take_flag(const char *rest, unsigned most, unsigned *flag)
{
    unsigned value;
    if (*rest != '=' || !modem_value(rest, 0, 0, &value) || value > most) return OUTCOME_ERROR;
    *flag = value;
    return OUTCOME_OK;
}

static unsigned registered(struct sms_modem *m, const char *rest)
{
    if (!strcmp(rest, "?")) {
        modem_info(m, "+CREG: %u,%u", m->registration_told, m->manner.unregistered ? 2u : 1u);
        return OUTCOME_OK;
    }
    return take_flag(rest, 2, &m->registration_told);
}

static unsigned pin(struct sms_modem *m, const char *rest)
{
    if (strcmp(rest, "?") != 0) {
        m->manner.pin_wanted = false; /* any will do */
        return OUTCOME_OK;
    }
    modem_info(m, "+CPIN: %s", m->manner.pin_wanted ? "SIM PIN" : "READY");
    return OUTCOME_OK;
}

static unsigned tell_clock(struct sms_modem *m, const char *rest)
{
    uint8_t stamp[7];
    if (strcmp(rest, "?") != 0) return *rest == '=' ? OUTCOME_OK : OUTCOME_ERROR;
    uint64_t now = m->manner.clock_unset ? m->world->now_us / 1000000 : network_seconds(m->network);
    tpdu_stamp(now, network_faults(m->network)->quarters, stamp);
    char *text = tpdu_stamp_text(stamp);
    modem_info(m, "+CCLK: \"%s\"", text);
    g_free(text);
    return OUTCOME_OK;
}

static unsigned functions(struct sms_modem *m, const char *rest)
{
    unsigned value, resets;
    if (!modem_value(rest, 0, 1, &value) || !modem_value(rest, 1, 0, &resets)) return OUTCOME_ERROR;
    if (resets == 1) modem_reset(m);
    m->manner.unregistered = value == 0;
    return OUTCOME_OK;
}

/* The network that it is in, as it is called (27.007, 7.3); it chooses none. */
static unsigned operator(struct sms_modem *m, const char *rest)
{
    static const char *const names[] = {"\"Simulated\"", "\"Sim\"", "\"00101\""};
    unsigned mode, format;
    if (!strcmp(rest, "?")) {
        if (m->manner.unregistered)
            modem_info(m, "+COPS: 0");
        else
            modem_info(m, "+COPS: 0,%u,%s", m->operator_format, names[m->operator_format]);
        return OUTCOME_OK;
    }
    if (*rest != '=' || !modem_value(rest, 0, 0, &mode) ||
        !modem_value(rest, 1, m->operator_format, &format) || format > 2 ||
        (mode != 0 && mode != 2 && mode != 3))
        return OUTCOME_ERROR;
    m->operator_format = format;
    if (mode == 2) m->manner.unregistered = true;
    if (mode == 0) m->manner.unregistered = false;
    return OUTCOME_OK;
}

/* +CMEE; its texts are not written: numbers stand for them. */
static unsigned errors(struct sms_modem *m, const char *rest)
{
    if (!strcmp(rest, "?")) {
        modem_info(m, "+CMEE: %u", m->numbers);
        return OUTCOME_OK;
    }
    return take_flag(rest, 2, &m->numbers);
}

unsigned modem_command(struct sms_modem *m, const char *name, const char *rest)
{
    unsigned flag = 0;
    if (!strcmp(rest, "=?") && modem_tell_range(m, name)) return OUTCOME_OK;
    unsigned outcome = modem_message_command(m, name, rest);
    if (outcome != UINT_MAX) return outcome;
    if (!strcmp(name, "CMEE")) return errors(m, rest);
    if (!strcmp(name, "CSCS")) return modem_take_charset(m, rest);
    if (!strcmp(name, "COPS")) return operator(m, rest);
    if (!strcmp(name, "CREG")) return registered(m, rest);
    if (!strcmp(name, "CPIN")) return pin(m, rest);
    if (!strcmp(name, "CCLK")) return tell_clock(m, rest);
    if (!strcmp(name, "CFUN")) return functions(m, rest);
    if (!strcmp(name, "CTZU")) return take_flag(rest, 1, &flag);
    if (!strcmp(name, "CSQ")) {
        modem_info(m, "+CSQ: %u,99", m->manner.unregistered ? 99u : 17u);
        return OUTCOME_OK;
    }
    return m->numbers ? OUTCOME_CME + 4 : OUTCOME_ERROR; /* 9.2: operation not supported */
}
