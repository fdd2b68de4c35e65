/* Any modem. The first octet says how it behaves: it says any bytes at any time, or answers each
 * command as a modem does and has any message in its store. Nothing is obeyed but what somebody who
 * may command has written, as the network's codec reads it; and each poll comes to rest. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "fuzz.h"
#include "rig.h"
#include "world/modem/tpdu.h"

static const char lexicon_text[] = "lexicon it 1\nbuilt-in halt stats\n"
                                   "output pump relay pin 4 safe off\n"
                                   "command pump {on|off|toggle} => pump\n"
                                   "event call {pressed|released}\n"
                                   "link shore sms allow +15550142  stale after 10min\n";

static struct rig *rig;
static const uint8_t *data;
static size_t size;
static size_t said; /* bytes of the driver's that were looked at */

static void fail(const char *what)
{
    fprintf(stderr, "%s: the driver said '%s', pins '%s'\n", what, rig->sent[0]->str,
            rig->pins->str);
    abort();
}

static void feed(const char *text)
{
    for (; *text; text++) {
        rlx_link_feed(&rig->link[0], (uint8_t)*text);
        rig_run(rig);
    }
}

static void pass(unsigned ms)
{
    for (unsigned left = ms; left;) {
        unsigned step = left < 500 ? left : 500;
        rig->now_ms += step;
        left -= step;
        rig_run(rig);
    }
}

/* What the driver sends is nothing but commands, messages, and what ends them. */
static void look_at_sent(void)
{
    for (size_t i = said; i < rig->sent[0]->len; i++) {
        uint8_t c = (uint8_t)rig->sent[0]->str[i];
        if ((c < ' ' && c != '\r' && c != 0x1A && c != 0x1B) || c > '~')
            fail("a byte of no command");
    }
    said = rig->sent[0]->len;
}

/* Bytes as they are; 255 lets time go by, 254 is a power cut, 253 a fault of the line. */
static void any_bytes(void)
{
    for (size_t i = 0; i < size; i++) {
        if (data[i] == 255) {
            pass(i + 1 < size ? data[i + 1] * 40u : 1000);
        } else if (data[i] == 254) {
            rig->board.nv_kept = true;
            if (rig_start(rig, rig->now_ms) != 0) fail("it does not start");
            said = 0;
        } else if (data[i] == 253) {
            rlx_link_fault(&rig->link[0]);
        } else {
            rlx_link_feed(&rig->link[0], data[i]);
        }
        rig_run(rig);
        look_at_sent();
    }
}

static bool may_have_led_to_it(void)
{
    struct tpdu t;
    bool ok = size && tpdu_read_deliver(data, (unsigned)size, &t);
    if (!ok) return false;
    char *text = g_strstrip(g_strdup(t.text));
    ok = !strcmp(t.number, "+15550142") && strstr(text, "pump");
    g_free(text);
    tpdu_clear(&t);
    return ok;
}

/* The last line that the driver has said; NULL: none since the last time. */
static char *last_line(size_t *from)
{
    char *line, *end = strpbrk(rig->sent[0]->str + *from, "\r\x1A");
    if (!end) return NULL;
    line = g_strndup(rig->sent[0]->str + *from, (gsize)(end - rig->sent[0]->str) - *from);
    *from = (size_t)(end - rig->sent[0]->str) + 1;
    return line;
}

static void answer(const char *line, bool *stored)
{
    if (strstr(line, "CMGR") && *stored) {
        char head[40];
        snprintf(head, sizeof head, "\r\n+CMGR: 0,,%u\r\n00", (unsigned)size);
        feed(head);
        for (size_t i = 0; i < size; i++) {
            char octet[3];
            snprintf(octet, sizeof octet, "%02X", data[i]);
            feed(octet);
        }
        feed("\r\n");
    }
    if (strstr(line, "CMGD")) *stored = false;
    if (strstr(line, "CPMS?"))
        feed(*stored ? "\r\n+CPMS: \"SM\",1,3,\"\"\r\n" : "\r\n+CPMS: \"SM\",0,3,\"\"\r\n");
    if (strstr(line, "CREG")) feed("\r\n+CREG: 0,1\r\n");
    if (strstr(line, "CPIN")) feed("\r\n+CPIN: READY\r\n");
    if (strstr(line, "CCLK")) feed("\r\n+CCLK: \"26/03/01,08:00:00+00\"\r\n");
    feed(strstr(line, "CMGS") ? "\r\n> " : "\r\nOK\r\n");
}

static void any_message(void)
{
    bool stored = true;
    size_t from = 0;
    unsigned answered = 0;
    for (unsigned ms = 0; ms < 30000 && answered < 80; ms += 20) {
        char *line = last_line(&from);
        if (line) {
            answer(line, &stored);
            answered++;
        }
        g_free(line);
        pass(20);
        look_at_sent();
    }
    if (rig->pins->len && !may_have_led_to_it()) fail("obeyed what nobody said");
    if (stored) fail("the message stays in the store");
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    if (!rig) rig = rig_of_text(lexicon_text);
    if (!count || count > 400) return 0;
    rig->board.nv_kept = false;
    if (rig_start(rig, 0) != 0) fail("it does not start");
    rig_run(rig);
    rig_forget(rig);
    said = 0;
    data = bytes + 1;
    size = count - 1;
    if (*bytes & 1)
        any_message();
    else
        any_bytes();
    return 0;
}
