/* Random lexicons of every shape: all kinds of outputs, slots, framings, built-in words, settings,
 * routines, events, texts of a link's own; commands that are words, or numbers only. Many are
 * refused by the checker: whoever asks for one looks. */
#include <glib.h>
#include <string.h>

#include "lines.h"

static const char *one_of(const char *const *all, unsigned n)
{
    return all[lines_chance(n)];
}
#define ONE_OF(all) one_of(all, G_N_ELEMENTS(all))
#define MAYBE(text) (lines_chance(2) ? (text) : "")

struct shape {
    GString *text;
    unsigned outputs, pins, channels, inputs, links, numbers;
    bool only_numbers, settings, curve;
};

static void put(struct shape *s, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void put(struct shape *s, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_string_append_vprintf(s->text, format, args);
    va_end(args);
}

/* What a command begins with: a word of its own, or a number. */
static void begin_command(struct shape *s, const char *word)
{
    put(s, "command %s", word);
    s->numbers++;
}

static const char *expiry(void)
{
    static const char *const all[] = {"",
                                      "",
                                      " expires 700ms",
                                      " expires 2s",
                                      " newest",
                                      " expires 1s newest",
                                      " says \"it is done\"",
                                      " newest says \"now {}\" already \"it was {} before\"",
                                      " says \"well: {}\" on l0"};
    return ONE_OF(all);
}

static void switched(struct shape *s, const char *name)
{
    static const char *const rest[] = {"{on|off|toggle} => %s",
                                       "{on|off} => %s",
                                       "on => %s on",
                                       "=> %s toggle",
                                       "{on|off|toggle = toggle} => %s",
                                       "a while => %s on for 900ms"};
    char word[16];
    for (unsigned n = 1 + lines_chance(2); n; n--) {
        g_snprintf(word, sizeof word, "%s%s", name, n > 1 ? "x" : "");
        begin_command(s, word);
        put(s, " ");
        char *effect = g_strdup(ONE_OF(rest));
        char **parts = g_strsplit(effect, "%s", 2);
        put(s, "%s%s%s%s\n", parts[0], name, parts[1], strstr(parts[1], "for") ? "" : expiry());
        g_strfreev(parts);
        g_free(effect);
    }
}

/* One input of the lexicon permits it, perhaps. */
static const char *permit(void)
{
    static const char *const all[] = {"", "", "", " only while in on", " only while in released"};
    return ONE_OF(all);
}

static void relay(struct shape *s, const char *name)
{
    static const char *const more[] = {"",
                                       "",
                                       " min on 300ms off 500ms",
                                       " counted",
                                       " interlock one dead 200ms",
                                       " expires 800ms"};
    put(s, "output %s relay pin %u %s safe %s%s%s\n", name, s->pins++, MAYBE("active low"),
        lines_chance(3) ? "off" : "on", ONE_OF(more), permit());
    switched(s, name);
}

static void led(struct shape *s, const char *name)
{
    static const char *const more[] = {"", " curve eye", " fade 300ms", " expires 1s"};
    bool pwm = lines_chance(2);
    if (pwm)
        put(s, "output %s led pwm %u at 1kHz safe %u%%%s%s\n", name, s->channels++,
            lines_chance(3) * 20, ONE_OF(more), permit());
    else
        put(s, "output %s led pin %u %s\n", name, s->pins++, MAYBE("active low"));
    switched(s, name);
    if (pwm && lines_chance(2)) {
        char word[16];
        g_snprintf(word, sizeof word, "%slevel", name);
        begin_command(s, word);
        put(s, " {level 0..100%%%s} => %s%s\n", lines_chance(3) ? "" : " as 100..0", name,
            expiry());
    }
    if (lines_chance(3)) return;
    static const char *const acts[] = {"blink {t 100ms..2s} => %s blink",
                                       "flash {n 1..9} => %s flash", "wink => %s blink 400ms",
                                       "sos => %s pattern sos"};
    char *effect = g_strdup(ONE_OF(acts)), **parts = g_strsplit(effect, "%s", 2), word[16];
    g_snprintf(word, sizeof word, "%sact", name);
    begin_command(s, word);
    put(s, " %s%s%s%s\n", parts[0], name, parts[1], expiry());
    g_strfreev(parts);
    g_free(effect);
}

static void buzzer(struct shape *s, const char *name)
{
    char word[16];
    put(s, "output %s buzzer pwm %u at 2kHz\n", name, s->channels++);
    g_snprintf(word, sizeof word, "%s", name);
    begin_command(s, word);
    put(s, lines_chance(2) ? " beep {n 1..5} => %s beep\n" : " tone {f 200..3000} => %s tone\n",
        name);
}

/* Several commands of one that moves, which of them expire, in whatever order they are said. */
static void turner(struct shape *s, const char *name, bool pair)
{
    static const char *const ways[] = {"{forward|back|stop|reverse} => %s",
                                       "{stop|brake|coast} => %s",
                                       "pace {speed 0..100%%} => %s speed", "go => %s forward"};
    if (pair)
        put(s,
            "output %s pair left pwm %u direction %u right pwm %u direction %u %s turns %s safe "
            "0%%\n",
            name, s->channels, s->pins, s->channels + 1, s->pins + 1, MAYBE("ramp 100ms"),
            lines_chance(2) ? "coast" : "oppose");
    else
        put(s, "output %s motor pwm %u at 20kHz direction %u %s %s %s safe 0%%%s\n", name,
            s->channels, s->pins, MAYBE("ramp 100ms"), MAYBE("dead 100ms"), MAYBE("travel 3s"),
            lines_chance(4) ? "" : " back only while in pressed");
    s->channels += 2;
    s->pins += 2;
    for (unsigned n = 1 + lines_chance(3), i = 0; i < n; i++) {
        char word[16];
        g_snprintf(word, sizeof word, "%s%u", name, i);
        begin_command(s, word);
        char *effect = g_strdup_printf(ONE_OF(ways), name);
        put(s, " %s%s\n", effect, expiry());
        g_free(effect);
    }
    if (lines_chance(2)) return;
    char word[16];
    g_snprintf(word, sizeof word, "%slevel", name);
    begin_command(s, word);
    put(s, pair ? " {l -100..100%%} {r -100..100%%} => %s%s\n" : " {level -100..100%%} => %s%s\n",
        name, expiry());
}

static void reverser(struct shape *s, const char *name)
{
    char word[16];
    put(s, "output %s reverser open pin %u close pin %u dead 200ms %s safe stop%s\n", name, s->pins,
        s->pins + 1, MAYBE("travel 2s"), lines_chance(4) ? "" : " open only while in off");
    s->pins += 2;
    g_snprintf(word, sizeof word, "%s", name);
    begin_command(s, word);
    put(s, " {open|close|stop} => %s%s\n", name, expiry());
}

static void servo(struct shape *s, const char *name)
{
    bool named = lines_chance(2);
    put(s, "output %s servo pwm %u 0..90 as %s %s safe %s\n", name, s->channels++,
        lines_chance(2) ? "1000..2000us" : "2000..1000us", MAYBE("slew 1s"),
        named ? "0 positions here = 7 there = 90" : "0");
    begin_command(s, name);
    put(s, " %s => %s%s\n", named ? "{here|there|park}" : "{angle 0..90}", name, expiry());
}

static void stepper(struct shape *s, const char *name)
{
    static const char *const tells[] = {"{angle 0..90} => %s", "{angle 0.0..45.5} => %s",
                                        "{home|stop} => %s", "{way -90..90} => %s by"};
    put(s,
        "output %s stepper step pwm %u direction %u %s 0..90 as -900..0 steps speed %u ramp %ums "
        "safe hold\n",
        name, s->channels++, s->pins, MAYBE("reversed"), 100 + lines_chance(3000),
        10 + lines_chance(400));
    s->pins++;
    for (unsigned n = 1 + lines_chance(3), i = 0; i < n; i++) {
        char word[16];
        g_snprintf(word, sizeof word, "%s%u", name, i);
        begin_command(s, word);
        char *effect = g_strdup_printf(ONE_OF(tells), name);
        put(s, " %s%s\n", effect, expiry());
        g_free(effect);
    }
}

static void any_output(struct shape *s)
{
    char name[8];
    g_snprintf(name, sizeof name, "o%c", 'a' + (int)s->outputs++);
    switch (lines_chance(10)) {
    case 0: buzzer(s, name); break;
    case 1: turner(s, name, false); break;
    case 2: turner(s, name, true); break;
    case 3: reverser(s, name); break;
    case 4: servo(s, name); break;
    case 5: stepper(s, name); break;
    case 6:
    case 7: led(s, name); break;
    default: relay(s, name);
    }
}

/* Commands that the firmware handles, with slots of every kind. */
static void handled(struct shape *s, unsigned i)
{
    static const char *const slots[] = {"",
                                        "{n 0..9}",
                                        "{n -5..5}",
                                        "{h 10..300mm}",
                                        "{w -70000..99999}",
                                        "{k a|b|c}",
                                        "{n 0.0..9.9}",
                                        "{m 0x00..0x1F}",
                                        "{t 10ms..2min}",
                                        "{s set x|y|z}",
                                        "{text 0..5}",
                                        "{l 3 of 0..50}",
                                        "{n 0..9 as 90..0}",
                                        "{a 0..9} {b -9..9}",
                                        "{r rest 1..6}",
                                        "{k 0..1} {n 0..9 = 7}",
                                        "(the) {k a|b = b}",
                                        "{k 3|12|a}"};
    char word[24];
    g_snprintf(word, sizeof word, lines_chance(4) ? "h%u" : "{p%u|q%u|%u}", i, i, i + 2);
    static const char *const told[] = {"", "", " answers {v 0..99}",
                                       " answers {v -2.0..9.5} {low|full}",
                                       " answers {on set x|y} {v 5..100000}"};
    begin_command(s, s->only_numbers ? "{pin 12..13}" : word);
    put(s, " %s => h%u()%s%s\n", ONE_OF(slots), i, ONE_OF(told), MAYBE(" refuses jammed|cold"));
}

static const char *envelope(bool addressed)
{
    static const char *const plain[] = {"",
                                        "",
                                        "check optional",
                                        "check required",
                                        "tags optional",
                                        "check required tags required",
                                        "tags required kept"};
    static const char *const to[] = {"address 3 senders 2", "address 3 senders 2 check required",
                                     "address 3 senders 2 check required tags required",
                                     "address 3 senders 2 tags optional",
                                     "address 3 tags required window 2s kept"};
    return addressed ? ONE_OF(to) : ONE_OF(plain);
}

static void any_link(struct shape *s, unsigned i)
{
    static const char *const replies[] = {"",
                                          "",
                                          "",
                                          " replies short",
                                          " replies drop",
                                          " replies silent",
                                          " lost after 3s",
                                          " state told",
                                          " transmit 32",
                                          ""};
    bool keys = strstr(s->text->str, "command first") != NULL; /* what they say */
    switch (lines_chance(9) + (keys ? 0u : 2u)) {
    case 0:
        put(s, "link l%u serial 9600 frame keys %s a = \"%%A\" b = \"%%B\"", i,
            MAYBE("lead \":\""));
        break;
    case 1:
        put(s, "link l%u serial 9600 frame codes within 300ms AA = \"%%A\" AB = \"%%B\"", i);
        break;
    case 2:
        put(s, "link l%u serial 9600 frame ended \"^\" within 1s %s", i, envelope(false));
        break;
    case 3: put(s, "link l%u modem 9600 frame gap 20ms %s", i, envelope(false)); break;
    case 4: put(s, "link l%u serial 1200 frame fixed 90 pad \"~\" gap 50ms", i); break;
    case 5: put(s, "link l%u radio payload 64 open %s", i, envelope(lines_chance(2))); break;
    case 6: put(s, "link l%u report", i); break;
    case 7: put(s, "link l%u sms handed open", i); break;
    default:
        if (strstr(s->text->str, "built-in bye") && !lines_chance(3)) {
            put(s, "link l%u bridge 9600 frame line state pin %u hang up pin %u for 200ms", i,
                s->pins, s->pins + 1);
            s->pins += 2;
        } else
            put(s, "link l%u serial 9600 frame line %s %s", i, MAYBE("for people"),
                envelope(false));
    }
    const char *reply = ONE_OF(replies);
    put(s, "%s\n", reply);
    if (!strcmp(reply, " lost after 3s"))
        put(s, "output seen%u led pin %u shows l%u connected blink 300ms lost on\n", i, s->pins++,
            i);
}

/* A link of bytes, for the commands and events whose names are known. */
static void layout(struct shape *s)
{
    static const char *const frames[] = {"gap 5ms", "stuffed", "cobs"};
    static const char *const around[] = {"body", "u8 0xA5 u8 length u8 number body u8 sum",
                                         "u3 5 u13 number checked u16 0x7E7D body u16 crc16 usb",
                                         "u16 little length of all body u8 0 u8 xor"};
    static const char *const answers[] = {"", "layout ll answer u8 0x5A u8 0x5B u8 result\n",
                                          "layout ll answer u32 0 u8 result u16 crc16 dnp\n"};
    const char *text = s->text->str;
    bool first = strstr(text, "command first"), fades = strstr(text, "command fades");
    bool pressed = strstr(text, "event pressed") != NULL;
    if (!first && !fades) return;
    put(s, "link ll serial 9600 frame %s%s\nlayout ll frame %s\n%s", ONE_OF(frames),
        MAYBE(" lost after 3s"), ONE_OF(around), ONE_OF(answers));
    if (first) put(s, "layout ll \"first on\" u8 1 u16 9\nlayout ll \"first off\" u8 2 u16 9\n");
    if (fades) put(s, "layout ll \"fades {l}\" u8 0x7E u16 little l %s\n", MAYBE("0..1000"));
    if (pressed)
        put(s, "layout ll event u8 0xEE body\nlayout ll \"ev pressed pressed\" u8 0x7E\n"
               "layout ll \"ev pressed released\" u8 0\n");
}

/* What a link says instead of its replies: short, empty, or like others' words. */
static void own_texts(struct shape *s, unsigned link)
{
    static const char *const whats[] = {"ok",        "already", "err",   "err unknown",
                                        "err range", "note",    "ev e0", "err number"};
    static const char *const texts[] = {"+",  "-", "",    "?",  "on or off", "wrong",
                                        "ok", "x", "a b", "e1", "13",        "done; now"};
    static const char *const worded[] = {
        " err choice = \"wants {wanted}, got {word}\"", " err missing = \"wants {wanted}\"",
        " err digits = \"as {slot}: {low} to {high}\"", " err extra = \"up to {at}\""};
    put(s, "texts l%u", link);
    for (unsigned i = lines_chance(3) ? G_N_ELEMENTS(worded) : 0; i < G_N_ELEMENTS(worded); i++)
        if (lines_chance(2)) put(s, "%s", worded[i]);
    for (unsigned i = 0; i < G_N_ELEMENTS(whats); i++)
        if (lines_chance(2) && (strcmp(whats[i], "ev e0") || strstr(s->text->str, "event e0")))
            put(s, " %s = \"%s\"", whats[i], ONE_OF(texts));
    put(s, "\n");
}

static void events(struct shape *s)
{
    static const char *const how[] = {"", "", " every 300ms", " confirmed", " at most 5 a day"};
    for (unsigned i = lines_chance(3), k = 0; k < i; k++)
        put(s, "event e%u%s%s\n", k, MAYBE(" {low|high}"), ONE_OF(how));
    if (!lines_chance(3))
        put(s, "event told%s <= oa%s\n", lines_chance(2) ? " {on|off}" : "", ONE_OF(how));
    bool plain = strstr(s->text->str, "output oa relay") || strstr(s->text->str, "output oa led");
    if (plain && strstr(s->text->str, "setting se "))
        put(s, "command lastly {on|off} => oa expires se\n");
    bool by = strstr(s->text->str, "setting sa ") != NULL;
    if (by)
        put(s,
            "setting sf {t 1ms..500ms} = 20ms\nsetting sg {n 0..300 up to sa} = 3\n"
            "command mostly {n 0..300 from sg up to sa} => h8()\n"
            "output fades led pwm %u at 1kHz fade sf\ncommand fades {l 0..100%%} => fades\n",
            s->pins++);
    if (!lines_chance(3)) {
        static const char *const acts[] = {"",
                                           "",
                                           "pressed => oa toggle",
                                           "released => oa off",
                                           "pressed => h9() released => oa stop",
                                           "held 300ms held => oa on for 2s"};
        put(s, "input in pin %u pull up debounce %s %s %s\n", s->pins++, by ? "sf" : "20ms",
            MAYBE("held 1s repeat 200ms"), ONE_OF(acts));
        put(s, "event pressed {pressed|released} <= in\n");
    }
}

static void settings(struct shape *s)
{
    static const char *const all[] = {
        "setting sa {n 0..300} = 7", "setting sb {k dim|bright} = dim",
        "setting sc {text 0..9} = \"Ann\"", "setting sd {d set m|n|o} = m+o",
        "setting se {t 1s..5min} = 90s"};
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (lines_chance(2)) put(s, "%s\n", all[i]);
}

static void put_head(struct shape *s)
{
    static const char *const words[] = {"halt", "about", "stats", "state", "batch",
                                        "help", "heard", "log",   "bye",   "notes"};
    bool any = lines_chance(4);
    put(s, "lexicon shape 1\nletters %s%s\n%s", lines_chance(2) ? "any-case" : "exact",
        MAYBE(" shorten 2"), MAYBE("greeting off\n"));
    for (unsigned i = 0; any && i < G_N_ELEMENTS(words); i++)
        if (lines_chance(2)) put(s, "built-in %s\n", words[i]);
    put(s, "%s", MAYBE("memory 6 pages of 640 bytes\n"));
    put(s, "pattern sos 100ms 100ms 100ms 300ms\n");
}

/* Puts in what the keys say. */
static void bind_keys(struct shape *s, const char *a, const char *b)
{
    char **parts = g_strsplit(s->text->str, "%A", -1), *once = g_strjoinv(a, parts);
    char **again = g_strsplit(once, "%B", -1), *all = g_strjoinv(b, again);
    g_string_assign(s->text, all);
    g_strfreev(parts), g_strfreev(again);
    g_free(once), g_free(all);
}

char *lines_shape(void)
{
    struct shape s = {.text = g_string_new(NULL), .pins = 2, .only_numbers = !lines_chance(6)};
    put_head(&s);
    if (!lines_chance(3)) settings(&s);
    if (!s.only_numbers && lines_chance(2))
        put(&s, "output first relay pin 1\ncommand first {on|off} => first\n");
    for (unsigned n = s.only_numbers ? 0 : lines_chance(4); n; n--) any_output(&s);
    unsigned most = s.only_numbers ? 1 : lines_chance(5);
    for (unsigned i = 0; i < most || !s.numbers; i++) handled(&s, i);
    if (!lines_chance(4)) put(&s, "query level {mm 0..4000} => read_level()\n");
    if (!lines_chance(4))
        put(&s, "query temp {celsius -40.0..125.0} of {probe 1..4} => read_temp()\n");
    if (!lines_chance(4))
        put(&s, "query tide {mm 0..99} {up|down} of {a|b|c} {day -70000..6} => read_tide()\n");
    bool first = strstr(s.text->str, "command first") != NULL;
    if (first && !lines_chance(4))
        put(&s, "routine dusk = \"first on; wait 2s; first off\"%s\n",
            lines_chance(3)   ? ""
            : lines_chance(2) ? " repeat 3 times"
                              : " repeat forever");
    if (first && !lines_chance(4)) put(&s, "number 12 = first on\n");
    events(&s);
    unsigned links = 1 + lines_chance(3);
    for (unsigned i = 0; i < links; i++) any_link(&s, i);
    for (unsigned i = 0; i < links; i++)
        if (!lines_chance(2)) own_texts(&s, i);
    if (!lines_chance(4)) layout(&s);
    if (!lines_chance(4)) put(&s, "ignore \"AT\"%s\n", MAYBE(" reply \"hello\""));
    if (strstr(s.text->str, "setting sa "))
        g_string_replace(s.text, " confirmed", " confirmed kept", 0);
    bind_keys(&s, first ? "first on" : "13 1", first ? "first off" : "12");
    return g_string_free(s.text, FALSE);
}
