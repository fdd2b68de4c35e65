/* The simulated modem: exchanges worked out by hand from ITU-T V.250, 3GPP TS 27.007 and 27.005,
 * byte for byte: <r> and <n> are CR and LF, <Z> and <E> Ctrl-Z and escape. */
#include "world/modem/modem.h"

#include "world/modem/alphabet.h"

#include <glib.h>
#include <string.h>

#include "harness.h"

struct table {
    struct world *world;
    struct network *network;
    struct sms_modem *modem;
    GString *said;
    char *phone;
};

static void on_byte(void *user, uint8_t byte)
{
    struct table *t = user;
    if (byte == '\r')
        g_string_append(t->said, "<r>");
    else if (byte == '\n')
        g_string_append(t->said, "<n>");
    else
        g_string_append_c(t->said, (char)byte);
}

static void on_phone(void *user, const char *from, const char *to, const char *text)
{
    struct table *t = user;
    g_free(t->phone);
    t->phone = g_strdup_printf("%s to %s: %s", from, to, text);
}

static struct table *table_new(void)
{
    struct table *t = g_new0(struct table, 1);
    t->world = world_new();
    t->said = g_string_new(NULL);
    t->network = network_new(t->world, 1, on_phone, t);
    t->modem = modem_new(t->world, t->network, 1, on_byte, NULL, t);
    network_join(t->network, t->modem, "+15550170");
    return t;
}

static void table_free(struct table *t)
{
    modem_free(t->modem);
    network_free(t->network);
    world_free(t->world);
    g_string_free(t->said, TRUE);
    g_free(t->phone);
    g_free(t);
}

static void pass(struct table *t, unsigned ms)
{
    uint64_t until = t->world->now_us + ms * 1000ull;
    while (world_step(t->world, until)) {}
}

/* Says it, waits, and compares what came back since the last time. */
static void says(struct table *t, const char *said, const char *wanted)
{
    for (const char *p = said; *p; p++) {
        if (!strncmp(p, "<r>", 3)) {
            modem_hear(t->modem, '\r');
            p += 2;
        } else if (!strncmp(p, "<Z>", 3) || !strncmp(p, "<E>", 3)) {
            modem_hear(t->modem, p[1] == 'Z' ? 0x1A : 0x1B);
            p += 2;
        } else {
            modem_hear(t->modem, (uint8_t)*p);
        }
    }
    pass(t, 2500);
    test_context("%s", said);
    CHECK_TEXT(t->said->str, wanted);
    g_string_truncate(t->said, 0);
}

static void command_lines(void)
{
    struct table *t = table_new();
    says(t, "AT<r>", "AT<r><r><n>OK<r><n>");
    says(t, "atx9<r>", "atx9<r><r><n>OK<r><n>");
    says(t, "ATE0<r>", "ATE0<r><r><n>OK<r><n>");
    says(t, "AT<r>", "<r><n>OK<r><n>");
    says(t, "A/", "<r><n>OK<r><n>");
    says(t, "noise AT+CSQ<r>", "<r><n>+CSQ: 17,99<r><n><r><n>OK<r><n>");
    says(t, "AT+CMFE=1<r>", "<r><n>ERROR<r><n>");
    says(t, "AT+CMEE=1;+CPIN?;+NONE;+CSQ<r>", "<r><n>+CPIN: READY<r><n><r><n>+CME ERROR: 4<r><n>");
    says(t, "ATS3?<r>", "<r><n>013<r><n><r><n>OK<r><n>");
    says(t, "ATS4=33S4?<r>", "<r>!033<r>!<r>!OK<r>!");
    says(t, "ATS4=10<r>", "<r><n>OK<r><n>");
    says(t, "ATX\bV0<r>", "0<r>");
    says(t, "AT+CSQ<r>", "+CSQ: 17,99<r><n>0<r>");
    says(t, "ATV2<r>", "4<r>"); /* it stays as it is */
    says(t, "ATV0Q1<r>", "");
    says(t, "AT<r>", "");
    says(t, "ATZ<r>", "<r><n>OK<r><n>");
    says(t, "AT<r>", "AT<r><r><n>OK<r><n>");
    table_free(t);
}

static void telephone(void)
{
    struct table *t = table_new();
    says(t, "ATE0<r>", "ATE0<r><r><n>OK<r><n>");
    says(t, "AT+CREG?<r>", "<r><n>+CREG: 0,1<r><n><r><n>OK<r><n>");
    says(t, "AT+CREG=1<r>", "<r><n>OK<r><n>");
    says(t, "AT+CREG?<r>", "<r><n>+CREG: 1,1<r><n><r><n>OK<r><n>");
    network_faults(t->network)->quarters = -14;
    says(t, "AT+CCLK?<r>", "<r><n>+CCLK: \"26/03/01,04:30:10-14\"<r><n><r><n>OK<r><n>");
    modem_manner(t->modem)->clock_unset = true;
    says(t, "AT+CCLK?<r>", "<r><n>+CCLK: \"99/12/31,20:30:12-14\"<r><n><r><n>OK<r><n>");
    modem_manner(t->modem)->pin_wanted = true;
    says(t, "AT+CPIN?<r>", "<r><n>+CPIN: SIM PIN<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGR=1<r>", "<r><n>+CMS ERROR: 311<r><n>");
    says(t, "AT+CPIN=\"1234\"<r>", "<r><n>OK<r><n>");
    says(t, "AT+CFUN=0<r>", "<r><n>OK<r><n>");
    says(t, "AT+CREG?<r>", "<r><n>+CREG: 1,2<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGS=14<r>", "<r><n>+CMS ERROR: 331<r><n>");
    says(t, "AT+CFUN=1,1<r>", "<r><n>OK<r><n>");
    says(t, "AT<r>", "AT<r><r><n>OK<r><n>"); /* it was reset: it echoes */
    table_free(t);
}

static void in_pdu_mode(void)
{
    struct table *t = table_new();
    says(t, "ATE0+CMGF=0;+CNMI=2,1<r>", "ATE0+CMGF=0;+CNMI=2,1<r><r><n>OK<r><n>");
    CHECK(network_write(t->network, "+15550142", "+15550170", "pump on"));
    pass(t, 3000);
    /* 08:00:02 UTC, written when the command was over */
    says(
        t, "AT+CPMS?<r>",
        "<r><n>+CMTI: \"SM\",1<r><n><r><n>+CPMS: \"SM\",1,10,\"SM\",1,10,\"SM\",1,10<r><n><r><n>OK<"
        "r><n>");
    says(t, "AT+CMGR=1<r>",
         "<r><n>+CMGR: 0,,24<r><n>06915155051000"
         "0408915155102400006230108000200007F07A1B0E7ABB01<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGR=1<r>",
         "<r><n>+CMGR: 1,,24<r><n>06915155051000"
         "0408915155102400006230108000200007F07A1B0E7ABB01<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGL=0<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGL=4<r>",
         "<r><n>+CMGL: 1,1,,24<r><n>06915155051000"
         "0408915155102400006230108000200007F07A1B0E7ABB01<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGR=2<r>", "<r><n>+CMS ERROR: 321<r><n>");
    says(t, "AT+CMGD=1<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGD=1<r>", "<r><n>+CMS ERROR: 321<r><n>");
    says(t, "AT+CMGS=14<r>", "<r><n>> ");
    says(t,
         "001100089151551024"
         "0000A702EF35<Z>",
         "<r><n>+CMGS: 1<r><n><r><n>OK<r><n>");
    pass(t, 3000);
    CHECK_TEXT(t->phone, "+15550170 to +15550142: ok");
    says(t, "AT+CMGS=14<r>", "<r><n>> ");
    says(t, "0011<E>", "<r><n>OK<r><n>");
    says(t, "AT+CMGS=15<r>", "<r><n>> "); /* the length is wrong */
    says(t,
         "001100089151551024"
         "0000A702EF35<Z>",
         "<r><n>+CMS ERROR: 304<r><n>");
    says(t, "AT+CMGS=3<r>", "<r><n>+CMS ERROR: 304<r><n>");
    /* with a report: first octet 31; it comes as +CDS with the reference */
    says(t, "AT+CNMI=2,1,0,1<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGS=14<r>", "<r><n>> ");
    says(t,
         "003100089151551024"
         "0000A702EF35<Z>",
         "<r><n>+CMGS: 2<r><n><r><n>OK<r><n>");
    pass(t, 3000);
    CHECK(g_str_has_prefix(t->said->str, "<r><n>+CDS: 23<r><n>06915155051000"
                                         "0602"
                                         "089151551024"));
    g_string_truncate(t->said, 0);
    /* shown at once, not stored */
    says(t, "AT+CNMI=2,2<r>", "<r><n>OK<r><n>");
    network_write(t->network, "+1", "+15550170", "hi");
    pass(t, 3000);
    CHECK(g_str_has_prefix(t->said->str, "<r><n>+CMT: ,16<r><n>06915155051000"
                                         "04"
                                         "0191F1"));
    CHECK_INT(modem_stored(t->modem), 0);
    table_free(t);
}

static void in_text_mode(void)
{
    struct table *t = table_new();
    says(t, "ATE0+CMGF=1;+CNMI=2,1<r>", "ATE0+CMGF=1;+CNMI=2,1<r><r><n>OK<r><n>");
    says(t, "AT+CMGF?<r>", "<r><n>+CMGF: 1<r><n><r><n>OK<r><n>");
    CHECK(network_write(t->network, "+15550142", "+15550170", "glow [40]"));
    CHECK(network_write(t->network, "Bank", "+15550170", "OK"));
    pass(t, 3100);
    g_string_truncate(t->said, 0);
    says(t, "AT+CMGL=\"REC READ\"<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGR=1<r>",
         "<r><n>+CMGR: \"REC UNREAD\",\"+15550142\",,\"26/03/01,08:00:05+00\"<r><n>glow "
         "[40]<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGL=\"ALL\"<r>",
         "<r><n>+CMGL: 1,\"REC READ\",\"+15550142\",,\"26/03/01,08:00:05+00\"<r><n>glow [40]<r><n>"
         "<r><n>+CMGL: 2,\"REC "
         "UNREAD\",\"Bank\",,\"26/03/01,08:00:05+00\"<r><n>OK<r><n><r><n>OK<r><n>");
    says(t, "AT+CSDH=1<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGR=1<r>",
         "<r><n>+CMGR: \"REC "
         "READ\",\"+15550142\",,\"26/03/01,08:00:05+00\",145,4,0,0,\"+15550100\",145,9"
         "<r><n>glow [40]<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGD=1,4<r>", "<r><n>OK<r><n>");
    says(t, "AT+CMGS=\"+15550142\",145<r>", "<r><n>> ");
    says(t, "ev gatX\be open<Z>", "<r><n>+CMGS: 1<r><n><r><n>OK<r><n>");
    pass(t, 3000);
    CHECK_TEXT(t->phone, "+15550170 to +15550142: ev gate open");
    says(t, "AT+CMGW=\"+15550143\"<r>", "<r><n>> ");
    says(t, "later<Z>", "<r><n>+CMGW: 1<r><n><r><n>OK<r><n>");
    says(t, "AT+CSDH=0;+CMGR=1<r>",
         "<r><n>+CMGR: \"STO UNSENT\",\"+15550143\",<r><n>later<r><n><r><n>OK<r><n>");
    says(t, "AT+CMSS=1<r>", "<r><n>+CMSS: 2<r><n><r><n>OK<r><n>");
    pass(t, 3000);
    CHECK_TEXT(t->phone, "+15550170 to +15550143: later");
    table_free(t);
}

static void the_store_fills_up(void)
{
    struct table *t = table_new();
    modem_manner(t->modem)->places = 2;
    says(t, "ATE0<r>", "ATE0<r><r><n>OK<r><n>");
    for (unsigned i = 0; i < 3; i++) network_write(t->network, "+1", "+15550170", "hi");
    pass(t, 5000);
    CHECK_INT(modem_stored(t->modem), 2);
    CHECK_INT(network_under_way(t->network), 1); /* the network holds it */
    says(t, "AT+CMGD=1<r>", "<r><n>OK<r><n>");
    pass(t, 20000);
    CHECK_INT(modem_stored(t->modem), 2);
    CHECK_INT(network_under_way(t->network), 0);
    modem_reset(t->modem);
    CHECK_INT(modem_stored(t->modem), 2); /* its store is kept */
    table_free(t);
}

static void long_ones(void)
{
    struct table *t = table_new();
    GString *text = g_string_new(NULL);
    while (text->len < 400) g_string_append(text, "pump on; ");
    says(t, "ATE0+CMGF=1;+CSCS=\"UTF-8\"<r>", "ATE0+CMGF=1;+CSCS=\"UTF-8\"<r><r><n>OK<r><n>");
    CHECK(network_write(t->network, "+15550142", "+15550170", text->str));
    CHECK(network_write(t->network, "+15550142", "+15550170", "\xE6\xB0\xB4")); /* UCS2 */
    pass(t, 5000);
    CHECK_INT(modem_stored(t->modem), 4); /* 153 characters a part */
    says(t, "AT+CMGR=4<r>",
         "<r><n>+CMGR: \"REC "
         "UNREAD\",\"+15550142\",,\"26/03/01,08:00:02+00\"<r><n>\xE6\xB0\xB4<r><n><r><n>OK<r><n>");
    g_string_free(text, TRUE);
    table_free(t);
}

#define NUMBER_UCS2 "002B00310035003500350030003100340032" /* +15550142 */

static void what_may_be_said(void)
{
    struct table *t = table_new();
    static const char *const said[][2] = {
        {"ATE0", NULL},
        {"ATE2", "ERROR"},
        {"AT", "OK"}, /* and no echo */
        {"AT+CMGF=?", "+CMGF: (0,1)"},
        {"AT+CNMI=?", "+CNMI: (0-3),(0-2),(0-3),(0-2),(0,1)"},
        {"AT+CMGD=?", "+CMGD: (1-10),(0-4)"},
        {"AT+CMGL=?", "+CMGL: (0-4)"},
        {"AT+CMGR=?", "OK"},
        {"AT+CPMS=?", "+CPMS: (\"SM\"),(\"SM\"),(\"SM\")"},
        {"AT+CSCS=?", "+CSCS: (\"IRA\",\"GSM\",\"UCS2\",\"UTF-8\")"},
        {"AT+CSCS?", "+CSCS: \"IRA\""},
        {"AT+CSCS=\"PCCP437\"", "ERROR"},
        {"AT+CSMP?", "+CSMP: 17,167,0,0"},
        {"AT+CMEE?", "+CMEE: 0"},
        {"AT+COPS?", "+COPS: 0,0,\"Simulated\""},
        {"AT+COPS=3,2", "OK"},
        {"AT+COPS?", "+COPS: 0,2,\"00101\""},
        {"AT+CPMS=\"XX\"", "+CMS ERROR: 303"},
        {"AT+CPMS=\"SM\",\"ME\"", "+CMS ERROR: 303"},
        {"AT+CPMS=\"SM\",\"SM\"", "+CPMS: 0,10,0,10,0,10"},
    };
    says(t, "ATE0<r>", "ATE0<r><r><n>OK<r><n>");
    for (unsigned i = 1; i < G_N_ELEMENTS(said); i++) {
        bool informs = said[i][1][0] == '+' && !g_str_has_prefix(said[i][1], "+CMS ERROR");
        char *line = g_strconcat(said[i][0], "<r>", NULL);
        char *wanted =
            g_strconcat("<r><n>", said[i][1], "<r><n>", informs ? "<r><n>OK<r><n>" : "", NULL);
        says(t, line, wanted);
        g_free(wanted), g_free(line);
    }
    table_free(t);
}

static void character_sets(void)
{
    struct table *t = table_new();
    says(t, "ATE0+CMGF=1;+CSCS=\"UCS2\"<r>", "ATE0+CMGF=1;+CSCS=\"UCS2\"<r><r><n>OK<r><n>");
    CHECK(network_write(t->network, "+15550142", "+15550170", "\xE6\xB0\xB4\xF0\x9F\x98\x80"));
    CHECK(network_write(t->network, "+15550142", "+15550170", "a@_"));
    pass(t, 5000);
    says(t, "AT+CMGR=1<r>",
         "<r><n>+CMGR: \"REC UNREAD\",\"" NUMBER_UCS2
         "\",,\"26/03/01,08:00:02+00\"<r><n>6C34D83DDE00<r><n><r><n>OK<r><n>");
    says(t, "AT+CMGS=\"" NUMBER_UCS2 "\"<r>", "<r><n>> ");
    says(t, "0061D83DDE00<Z>", "<r><n>+CMS ERROR: 305<r><n>"); /* not in the default alphabet */
    says(t, "AT+CSMP=17,167,0,8;+CMGS=\"" NUMBER_UCS2 "\"<r>", "<r><n>> ");
    says(t, "0061D83DDE00<Z>", "<r><n>+CMGS: 1<r><n><r><n>OK<r><n>");
    pass(t, 3000);
    CHECK_TEXT(t->phone, "+15550170 to +15550142: a\xF0\x9F\x98\x80");
    says(t, "AT+CMGS=\"+15550142\"<r>", "<r><n>+CMS ERROR: 305<r><n>"); /* not in hex */
    says(t, "AT+CSCS=\"IRA\";+CMGR=1<r>",
         "<r><n>+CMGR: \"REC READ\",\"+15550142\",,\"26/03/01,08:00:02+00\"<r><n>\?\?<r><n><r><n>"
         "OK<r><n>");
    says(t, "AT+CSCS=\"GSM\"<r>", "<r><n>OK<r><n>");
    for (const char *p = "AT+CMGR=2\r"; *p; p++) modem_hear(t->modem, (uint8_t)*p);
    pass(t, 2500);
    static const char text[] = "<r><n>a\0\x11<r><n><r><n>OK<r><n>"; /* '@' is 0, '_' is 0x11 */
    gsize size = sizeof text - 1;
    CHECK(t->said->len > size && !memcmp(t->said->str + t->said->len - size, text, size));
    table_free(t);
}

/* 23.038, 4 and annex A; 23.040, 9.2.3.24. */
static void other_letters(void)
{
    static const uint8_t turkish[] = {0x40, 'A', 0x1B, 0x53};
    char *text = alphabet_text(turkish, sizeof turkish, 1, 1);
    CHECK_TEXT(text, "\xC4\xB0"
                     "A\xC5\x9E");
    g_free(text);
    text = alphabet_text(turkish, sizeof turkish, 0, 9);
    CHECK_TEXT(text, "\xEF\xBF\xBD\xEF\xBF\xBD ");
    g_free(text);
    struct tpdu deleted = {.number = (char *)"+15550142",
                           .text = (char *)"\xE6\xB0\xB4",
                           .coding = 0x48},
                t;
    GByteArray *bytes = tpdu_deliver(&deleted);
    CHECK(bytes && tpdu_read_deliver(bytes->data, bytes->len, &t));
    CHECK_TEXT(t.text, "\xE6\xB0\xB4");
    tpdu_clear(&t);
    g_byte_array_free(bytes, TRUE);
    /* the same text in septets, with a header that names its locking table */
    static const uint8_t locked[] = {0x40, 8,    0x91, 0x51, 0x55, 0x10, 0x24, 0,    0, 0x62, 0x30,
                                     0x10, 0x80, 0,    0,    0,    7,    3,    0x25, 1, 1};
    GByteArray *packed = alphabet_pack(turkish, 2, 3);
    bytes = g_byte_array_new();
    g_byte_array_append(bytes, locked, sizeof locked);
    g_byte_array_append(bytes, packed->data, packed->len);
    if (CHECK(tpdu_read_deliver(bytes->data, bytes->len, &t)))
        CHECK_TEXT(t.text, "\xC4\xB0"
                           "A");
    tpdu_clear(&t);
    g_byte_array_free(packed, TRUE);
    g_byte_array_free(bytes, TRUE);
}

/* A phone shows the parts of a text as one, in whatever order they come, and once. */
static void parts(void)
{
    struct table *t = table_new();
    struct tpdu part = {.number = (char *)"+15550142", .parts = 3, .parts_of = 7};
    static const char *const texts[] = {"two ", "one ", "two ", "three"};
    static const uint8_t numbers[] = {2, 1, 2, 3};
    for (unsigned i = 0; i < G_N_ELEMENTS(texts); i++) {
        g_clear_pointer(&t->phone, g_free);
        part.text = (char *)texts[i];
        part.part = numbers[i];
        CHECK(network_submit(t->network, t->modem, &part));
        pass(t, 5000);
        CHECK(!t->phone == (i < 3));
    }
    CHECK_TEXT(t->phone ? t->phone : "", "+15550170 to +15550142: one two three");
    table_free(t);
}

static const struct test_case cases[] = {
    {"what may be said", what_may_be_said},
    {"character sets, 27.007", character_sets},
    {"other letters, 23.038", other_letters},
    {"texts of several parts", parts},
    {"command lines, V.250", command_lines},
    {"registration, clock and card, 27.007", telephone},
    {"messages in PDU mode, 27.005", in_pdu_mode},
    {"messages in text mode, 27.005", in_text_mode},
    {"a store that fills up", the_store_fills_up},
    {"long messages and other alphabets", long_ones},
};
TEST_MAIN(cases)
