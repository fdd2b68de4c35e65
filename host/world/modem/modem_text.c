/* Character sets of text mode, and what the values of each command may be (3GPP TS 27.007, 5.5;
 * V.250, 5.4.2.3).
 * Hex and GSM are read as strictly as they are written.
 * It stores nothing. */
#include <string.h>

#include "world/modem/alphabet.h"
#include "world/modem/modem_parts.h"

static const char *const charsets[] = {[CHARSET_IRA] = "IRA",
                                       [CHARSET_GSM] = "GSM",
                                       [CHARSET_UCS2] = "UCS2",
                                       [CHARSET_UTF8] = "UTF-8"};

/* ---- to the device ---- */

/* What the set has not becomes a question mark. */
static char *in_ira(const char *text)
{
    GString *to = g_string_new(NULL);
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        gunichar c = g_utf8_get_char(p);
        g_string_append_c(to, c < 128 ? (char)c : '?');
    }
    return g_string_free(to, FALSE);
}

static char *in_gsm(const char *text)
{
    GString *to = g_string_new(NULL);
    for (const char *p = text; *p; p = g_utf8_next_char(p)) {
        char *one = g_strndup(p, (gsize)(g_utf8_next_char(p) - p));
        GByteArray *septets = alphabet_septets(one);
        for (guint i = 0; septets && i < septets->len; i++)
            g_string_append_c(to, (char)(septets->data[i] ? septets->data[i] : GSM_AT));
        if (!septets) g_string_append_c(to, '?');
        if (septets) g_byte_array_free(septets, TRUE);
        g_free(one);
    }
    return g_string_free(to, FALSE);
}

static char *in_hex(const char *text)
{
    GByteArray *units = alphabet_ucs2(text);
    GString *to = g_string_new(NULL);
    for (guint i = 0; i < units->len; i++) g_string_append_printf(to, "%02X", units->data[i]);
    g_byte_array_free(units, TRUE);
    return g_string_free(to, FALSE);
}

char *modem_in_charset(const struct sms_modem *m, const char *text)
{
    switch (m->charset) {
    case CHARSET_IRA: return in_ira(text);
    case CHARSET_GSM: return in_gsm(text);
    case CHARSET_UCS2: return in_hex(text);
    case CHARSET_UTF8: break;
    }
    return g_strdup(text);
}

/* ---- from the device ---- */

static char *from_gsm(const char *text)
{
    GByteArray *septets = g_byte_array_new();
    bool ok = true;
    for (; *text; text++) {
        guint8 septet = (guint8)*text == GSM_AT ? 0 : (guint8)*text;
        ok = ok && septet < 128;
        g_byte_array_append(septets, &septet, 1);
    }
    char *from = ok ? alphabet_text(septets->data, septets->len, 0, 0) : NULL;
    g_byte_array_free(septets, TRUE);
    return from;
}

GByteArray *modem_octets(const char *hex)
{
    GByteArray *to = g_byte_array_new();
    for (; g_ascii_isxdigit(hex[0]) && g_ascii_isxdigit(hex[1]); hex += 2) {
        guint8 octet = (guint8)(g_ascii_xdigit_value(hex[0]) << 4 | g_ascii_xdigit_value(hex[1]));
        g_byte_array_append(to, &octet, 1);
    }
    while (*hex == ' ' || *hex == '\n') hex++;
    if (!*hex) return to;
    g_byte_array_free(to, TRUE);
    return NULL;
}

static char *from_hex(const char *text)
{
    GByteArray *units = modem_octets(text);
    char *from = units && units->len % 2 == 0 ? alphabet_of_ucs2(units->data, units->len) : NULL;
    if (units) g_byte_array_free(units, TRUE);
    return from;
}

char *modem_from_charset(const struct sms_modem *m, const char *text)
{
    bool ascii = g_str_is_ascii(text);
    switch (m->charset) {
    case CHARSET_IRA: return ascii ? g_strdup(text) : NULL;
    case CHARSET_GSM: return from_gsm(text);
    case CHARSET_UCS2: return from_hex(text);
    case CHARSET_UTF8: break;
    }
    return g_utf8_validate(text, -1, NULL) ? g_strdup(text) : NULL;
}

unsigned modem_take_charset(struct sms_modem *m, const char *rest)
{
    if (!strcmp(rest, "?")) {
        modem_info(m, "+CSCS: \"%s\"", charsets[m->charset]);
        return OUTCOME_OK;
    }
    char *name = *rest == '=' ? modem_text_value(rest, 0) : g_strdup("");
    unsigned i = 0;
    while (i < G_N_ELEMENTS(charsets) && strcmp(charsets[i], name) != 0) i++;
    g_free(name);
    if (i == G_N_ELEMENTS(charsets)) return OUTCOME_ERROR;
    m->charset = (enum charset)i;
    return OUTCOME_OK;
}

/* ---- commands ---- */

bool modem_tell_range(struct sms_modem *m, const char *name)
{
    static const struct {
        const char *name, *values;
    } ranges[] = {{"CMGF", "(0,1)"},
                  {"CSDH", "(0,1)"},
                  {"CNMI", "(0-3),(0-2),(0-3),(0-2),(0,1)"},
                  {"CPMS", "(\"SM\"),(\"SM\"),(\"SM\")"},
                  {"CMGL", NULL}, /* by its mode */
                  {"CMGD", NULL}, /* by its store */
                  {"CMGR", ""},
                  {"CMGS", ""},
                  {"CMGW", ""},
                  {"CMSS", ""},
                  {"CSMP", ""},
                  {"CSCA", ""},
                  {"CSMS", "(0,1)"},
                  {"CSCS", "(\"IRA\",\"GSM\",\"UCS2\",\"UTF-8\")"},
                  {"COPS", "(2,\"Simulated\",\"Sim\",\"00101\"),,(0,2,3),(0,2)"},
                  {"CREG", "(0-2)"},
                  {"CMEE", "(0-2)"},
                  {"CFUN", "(0,1),(0,1)"},
                  {"CSQ", "(0-31,99),(99)"},
                  {"CTZU", "(0,1)"},
                  {"CPIN", ""},
                  {"CCLK", ""}};
    for (unsigned i = 0; i < G_N_ELEMENTS(ranges); i++) {
        if (strcmp(ranges[i].name, name) != 0) continue;
        if (!strcmp(name, "CMGL"))
            modem_info(m, "+CMGL: %s",
                       m->text_mode ? "(\"REC UNREAD\",\"REC READ\",\"STO UNSENT\",\"STO "
                                      "SENT\",\"ALL\")"
                                    : "(0-4)");
        else if (!strcmp(name, "CMGD"))
            modem_info(m, "+CMGD: (1-%u),(0-4)", m->manner.places);
        else if (*ranges[i].values)
            modem_info(m, "+%s: %s", name, ranges[i].values);
        return true;
    }
    return false;
}
