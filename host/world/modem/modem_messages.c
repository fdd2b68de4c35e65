/* Commands of 3GPP TS 27.005, in text and PDU mode.
 * Places of the store are kept as PDUs.
 * The network is in network.c. */
#include "world/modem/modem_parts.h"

#include <limits.h>
#include <string.h>

#include "world/modem/alphabet.h"

static const char *const stats[] = {"REC UNREAD", "REC READ", "STO UNSENT", "STO SENT", "ALL"};

/* ---- the store ---- */

static void place_free(struct stored *place)
{
    if (place->tpdu) g_byte_array_free(place->tpdu, TRUE);
    place->tpdu = NULL;
}

/* From 1; 0: it is full. */
static unsigned put_away(struct sms_modem *m, const guint8 *tpdu, unsigned size, unsigned stat)
{
    for (unsigned i = 1; i <= m->manner.places; i++) {
        if (m->store[i].tpdu) continue;
        m->store[i].tpdu = g_byte_array_new();
        g_byte_array_append(m->store[i].tpdu, tpdu, size);
        m->store[i].stat = stat;
        return i;
    }
    return 0;
}

static char *hex_of(const guint8 *bytes, unsigned size, const char *before)
{
    GString *text = g_string_new(before);
    for (unsigned i = 0; i < size; i++) g_string_append_printf(text, "%02X", bytes[i]);
    return g_string_free(text, FALSE);
}

/* The service centre of this network, +15550100 (23.040, 9.1.2.5 and 27.005, 3.1). */
#define CENTRE "06915155051000"

/* `head` and the message as its mode shows it, on two lines. */
static void show(struct sms_modem *m, const struct stored *place, const char *head, bool notice)
{
    struct tpdu t;
    const GByteArray *bytes = place->tpdu;
    bool submitted = place->stat >= UNSENT;
    char *line = NULL;
    if (m->text_mode && (submitted ? tpdu_read_submit(bytes->data, bytes->len, &t)
                                   : tpdu_read_deliver(bytes->data, bytes->len, &t))) {
        char *stamp = submitted ? NULL : tpdu_stamp_text(t.stamp);
        char *number = modem_in_charset(m, t.number), *text = modem_in_charset(m, t.text);
        GString *details = g_string_new(NULL);
        if (m->details)
            g_string_append_printf(details, ",%u,%u,%u,%u,\"+15550100\",145,%u",
                                   *t.number == '+' ? 145u : 129u, bytes->data[0], t.protocol,
                                   t.coding, (unsigned)g_utf8_strlen(t.text, -1));
        bool stat = !notice;
        line = g_strdup_printf("%s%s%s%s\"%s\",%s%s%s%s\r\n%s", head, stat ? "\"" : "",
                               stat ? stats[place->stat] : "", stat ? "\"," : "", number,
                               submitted ? "" : ",\"", submitted ? "" : stamp,
                               submitted ? "" : "\"", details->str, text);
        g_string_free(details, TRUE);
        g_free(stamp);
        g_free(number);
        g_free(text);
        tpdu_clear(&t);
    } else {
        char *pdu = hex_of(bytes->data, bytes->len, submitted ? "00" : CENTRE);
        line = notice ? g_strdup_printf("%s,%u\r\n%s", head, bytes->len, pdu)
                      : g_strdup_printf("%s%u,,%u\r\n%s", head, place->stat, bytes->len, pdu);
        g_free(pdu);
    }
    if (notice)
        modem_notice(m, line);
    else
        modem_info(m, "%s", line);
    g_free(line);
}

bool modem_deliver(struct sms_modem *m, const guint8 *tpdu, unsigned size)
{
    GByteArray bytes = {(guint8 *)tpdu, size};
    const struct stored fresh = {&bytes, UNREAD};
    bool report = size && (tpdu[0] & 3) == 2;
    if (m->off || m->manner.unregistered) return false;
    if (report && m->reports != 2) {
        if (m->reports == 1) {
            bool text_mode = m->text_mode;
            m->text_mode = false;
            char *head = g_strdup_printf("+CDS: %u", size), *pdu = hex_of(tpdu, size, CENTRE);
            char *line = g_strconcat(head, "\r\n", pdu, NULL);
            modem_notice(m, line);
            g_free(line);
            g_free(pdu);
            g_free(head);
            m->text_mode = text_mode;
        }
        return true;
    }
    if (m->notice == 2 && !report) {
        show(m, &fresh, "+CMT: ", true);
        return true;
    }
    unsigned place = put_away(m, tpdu, size, UNREAD);
    if (!place) return false;
    char *text = g_strdup_printf("+%s: \"SM\",%u", report ? "CDSI" : "CMTI", place);
    if (report || m->notice == 1) modem_notice(m, text);
    g_free(text);
    return true;
}

/* ---- reading ---- */

static struct stored *place_of(struct sms_modem *m, const char *rest)
{
    unsigned index;
    if (!modem_value(rest, 0, 0, &index) || !index || index > m->manner.places) return NULL;
    return m->store[index].tpdu ? &m->store[index] : NULL;
}

static unsigned read_one(struct sms_modem *m, const char *rest)
{
    struct stored *place = place_of(m, rest);
    if (!place) return OUTCOME_CMS + CMS_NO_PLACE;
    show(m, place, "+CMGR: ", false);
    if (place->stat == UNREAD) place->stat = READ;
    return OUTCOME_OK;
}

static unsigned list(struct sms_modem *m, const char *rest)
{
    unsigned stat = UNREAD;
    if (m->text_mode && *rest) {
        char *word = modem_text_value(rest, 0);
        for (stat = 0; stat <= ALL && strcmp(stats[stat], word) != 0; stat++) {}
        g_free(word);
    } else if (!modem_value(rest, 0, UNREAD, &stat)) {
        stat = UINT_MAX;
    }
    if (stat > ALL) return OUTCOME_ERROR;
    for (unsigned i = 1; i <= m->manner.places; i++) {
        struct stored *place = &m->store[i];
        if (!place->tpdu || (stat != ALL && stat != place->stat)) continue;
        char *head = g_strdup_printf("+CMGL: %u,", i);
        show(m, place, head, false);
        g_free(head);
        if (place->stat == UNREAD) place->stat = READ;
    }
    return OUTCOME_OK;
}

static unsigned delete_some(struct sms_modem *m, const char *rest)
{
    unsigned flag;
    if (!modem_value(rest, 1, 0, &flag) || flag > 4) return OUTCOME_ERROR;
    if (!flag) {
        struct stored *place = place_of(m, rest);
        if (!place) return OUTCOME_CMS + CMS_NO_PLACE;
        place_free(place);
        return OUTCOME_OK;
    }
    for (unsigned i = 1; i <= m->manner.places; i++) {
        unsigned stat = m->store[i].stat;
        bool goes = flag == 4 || stat == READ || (flag >= 2 && stat == SENT) ||
                    (flag >= 3 && stat == UNSENT);
        if (goes) place_free(&m->store[i]);
    }
    return OUTCOME_OK;
}

/* There is one store, on the card. */
static unsigned store(struct sms_modem *m, const char *rest)
{
    unsigned used = modem_stored(m), all = m->manner.places;
    bool asked = !strcmp(rest, "?");
    if (!asked && *rest != '=') return OUTCOME_ERROR;
    for (unsigned i = 0; !asked && i < 3; i++) {
        char *name = modem_text_value(rest, i);
        bool known = !strcmp(name, "SM") || (i && !*name);
        g_free(name);
        if (!known) return OUTCOME_CMS + CMS_NOT_SUPPORTED;
    }
    const char *names = asked ? "\"SM\"," : "";
    modem_info(m, "+CPMS: %s%u,%u,%s%u,%u,%s%u,%u", names, used, all, names, used, all, names, used,
               all);
    return OUTCOME_OK;
}

/* ---- sending ---- */

static unsigned why_not(const struct sms_modem *m)
{
    return m->manner.pin_wanted     ? OUTCOME_CMS + CMS_PIN
           : m->manner.unregistered ? OUTCOME_CMS + CMS_NO_NETWORK
                                    : OUTCOME_OK;
}

/* The prompt, and then the text. */
static unsigned ask(struct sms_modem *m, const char *rest, bool writes)
{
    char *first = modem_text_value(rest, 0);
    unsigned outcome = OUTCOME_LATER;
    m->writes = writes;
    if (m->text_mode) {
        g_free(m->to);
        m->to = modem_from_charset(m, first);
        if (!m->to || !*m->to) outcome = OUTCOME_CMS + CMS_BAD_TEXT;
    } else if (!modem_value(rest, 0, 0, &m->length) || m->length < 7 || m->length > 164) {
        outcome = OUTCOME_CMS + CMS_BAD_PDU;
    }
    g_free(first);
    if (outcome == OUTCOME_LATER && !writes && why_not(m)) outcome = why_not(m);
    if (outcome != OUTCOME_LATER) return outcome;
    g_string_truncate(m->text, 0);
    m->entry = ENTRY_TEXT;
    m->busy = false;
    modem_emit(m, "\r\n> ");
    return outcome;
}

/* What was entered as an SMS-SUBMIT; NULL: it is none. */
static GByteArray *submit_entered(const struct sms_modem *m)
{
    if (m->text_mode) {
        char *text = modem_from_charset(m, m->text->str);
        struct tpdu t = {.number = m->to,
                         .text = text,
                         .protocol = m->protocol,
                         .coding = m->coding,
                         .validity = m->validity,
                         .report = m->first & 0x20};
        GByteArray *tpdu = text ? tpdu_submit(&t) : NULL;
        g_free(text);
        return tpdu;
    }
    GByteArray *all = modem_octets(m->text->str);
    if (!all || !all->len || all->len != 1u + all->data[0] + m->length) {
        if (all) g_byte_array_free(all, TRUE);
        return NULL;
    }
    g_byte_array_remove_range(all, 0, 1u + all->data[0]);
    return all;
}

static unsigned submit(struct sms_modem *m, const GByteArray *tpdu, const char *command)
{
    struct tpdu t;
    if (why_not(m)) return why_not(m);
    if (!tpdu_read_submit(tpdu->data, tpdu->len, &t)) return OUTCOME_CMS + CMS_BAD_PDU;
    t.reference = ++m->reference;
    bool taken = network_submit(m->network, m, &t);
    tpdu_clear(&t);
    if (!taken) return OUTCOME_CMS + 38; /* 27.005, 3.2.5: the network is out of order */
    m->sent++;
    modem_info(m, "+%s: %u", command, m->reference);
    return OUTCOME_OK;
}

static void on_sent(void *data, uint32_t version)
{
    struct sms_modem *m = data;
    if (version != m->version) return;
    GByteArray *tpdu = submit_entered(m);
    unsigned outcome = OUTCOME_CMS + (m->text_mode ? CMS_BAD_TEXT : CMS_BAD_PDU);
    if (tpdu && m->writes) {
        unsigned place = put_away(m, tpdu->data, tpdu->len, UNSENT);
        outcome = place ? OUTCOME_OK : OUTCOME_CMS + CMS_FULL;
        if (place) modem_info(m, "+CMGW: %u", place);
    } else if (tpdu) {
        outcome = submit(m, tpdu, "CMGS");
    }
    if (tpdu) g_byte_array_free(tpdu, TRUE);
    modem_result(m, outcome);
}

void modem_entered(struct sms_modem *m)
{
    uint64_t takes = m->writes ? m->manner.answers_us : m->manner.sends_us;
    world_at(m->world, m->world->now_us + takes, on_sent, m, m->version);
}

static unsigned send_stored(struct sms_modem *m, const char *rest)
{
    struct stored *place = place_of(m, rest);
    if (!place || place->stat < UNSENT) return OUTCOME_CMS + CMS_NO_PLACE;
    unsigned outcome = submit(m, place->tpdu, "CMSS");
    if (outcome == OUTCOME_OK) place->stat = SENT;
    return outcome;
}

/* ---- settings ---- */

static unsigned notices(struct sms_modem *m, const char *rest)
{
    unsigned mode, notice, broadcast, reports;
    if (!strcmp(rest, "?")) {
        modem_info(m, "+CNMI: 2,%u,0,%u,0", m->notice, m->reports);
        return OUTCOME_OK;
    }
    if (*rest != '=' || !modem_value(rest, 0, 0, &mode) || !modem_value(rest, 1, 0, &notice) ||
        !modem_value(rest, 2, 0, &broadcast) || !modem_value(rest, 3, 0, &reports) || mode > 3 ||
        notice > 2 || broadcast > 3 || reports > 2)
        return OUTCOME_ERROR;
    m->notice = notice;
    m->reports = reports;
    return OUTCOME_OK;
}

static unsigned text_parameters(struct sms_modem *m, const char *rest)
{
    unsigned first, validity, protocol, coding;
    if (!strcmp(rest, "?")) {
        modem_info(m, "+CSMP: %u,%u,%u,%u", m->first, m->validity, m->protocol, m->coding);
        return OUTCOME_OK;
    }
    if (*rest != '=' || !modem_value(rest, 0, m->first, &first) ||
        !modem_value(rest, 1, m->validity, &validity) ||
        !modem_value(rest, 2, m->protocol, &protocol) ||
        !modem_value(rest, 3, m->coding, &coding) ||
        MAX(MAX(first, validity), MAX(protocol, coding)) > 255)
        return OUTCOME_ERROR;
    m->first = (uint8_t)first;
    m->validity = (uint8_t)validity;
    m->protocol = (uint8_t)protocol;
    m->coding = (uint8_t)coding;
    return OUTCOME_OK;
}

static unsigned take_mode(const char *rest, const char *name, struct sms_modem *m, bool *mode)
{
    unsigned value;
    if (!strcmp(rest, "?")) {
        modem_info(m, "+%s: %d", name, *mode);
        return OUTCOME_OK;
    }
    if (*rest != '=' || !modem_value(rest, 0, 0, &value) || value > 1) return OUTCOME_ERROR;
    *mode = value;
    return OUTCOME_OK;
}

unsigned modem_message_command(struct sms_modem *m, const char *name, const char *rest)
{
    static const struct {
        const char *name;
        unsigned (*run)(struct sms_modem *m, const char *rest);
    } commands[] = {{"CMGR", read_one},       {"CMGL", list},        {"CMGD", delete_some},
                    {"CPMS", store},          {"CMSS", send_stored}, {"CNMI", notices},
                    {"CSMP", text_parameters}};
    if (!strcmp(name, "CMGF")) return take_mode(rest, name, m, &m->text_mode);
    if (!strcmp(name, "CSDH")) return take_mode(rest, name, m, &m->details);
    if (!strcmp(name, "CMGS")) return ask(m, rest, false);
    if (!strcmp(name, "CMGW")) return ask(m, rest, true);
    if (!strcmp(name, "CSCA") && !strcmp(rest, "?")) {
        modem_info(m, "+CSCA: \"+15550100\",145");
        return OUTCOME_OK;
    }
    if (!strcmp(name, "CSMS")) {
        modem_info(m, "+CSMS: 1,1,1");
        return OUTCOME_OK;
    }
    for (unsigned i = 0; i < G_N_ELEMENTS(commands); i++) {
        if (strcmp(name, commands[i].name) != 0) continue;
        if (m->manner.pin_wanted) return OUTCOME_CMS + CMS_PIN;
        return commands[i].run(m, rest);
    }
    return UINT_MAX;
}
