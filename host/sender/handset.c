/* Writes NAME_HANDSET.h and NAME_HANDSET.c: the buttons, sliders and lamps of a handset section, on
 * top of the sender of its link.
 * What any handset has is in parts/handset.c.
 * It reads no pin: that is a function of the user's. */
#include "sender/sender_parts.h"

#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/names.h"
#include "lexicon/read/reader.h"
#include "lexicon/write/emit_parts.h"

/* The names of the physical buttons: two rows of one name are one button, with and without another
 * one held. */
static GPtrArray *physical(const struct lex_handset *handset)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        char *name = ((struct lex_button *)handset->buttons->pdata[i])->name;
        if (!g_ptr_array_find_with_equal_func(names, name, g_str_equal, NULL))
            g_ptr_array_add(names, name);
    }
    return names;
}

static unsigned number_of(const GPtrArray *names, const char *name)
{
    unsigned i = 0;
    while (i < names->len && strcmp(names->pdata[i], name) != 0) i++;
    return i;
}

/* ---- header ---- */

static void put_enum(GString *out, const struct sender *s, const char *what, const GPtrArray *names)
{
    char *small = g_ascii_strdown(what, -1);
    if (names->len) g_string_append_printf(out, "enum %s_%s {", s->handset_prefix, small);
    for (unsigned i = 0; i < names->len; i++) {
        char *word = lex_identifier(names->pdata[i], true);
        g_string_append_printf(out, "%s\n    %s_%s_%s = %u", i ? "," : "", s->handset_upper, what,
                               word, i);
        g_free(word);
    }
    if (names->len) g_string_append(out, "\n};\n");
    g_free(small);
}

static GPtrArray *slider_names(const struct lex_handset *handset)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < handset->sliders->len; i++)
        g_ptr_array_add(names, ((struct lex_slider *)handset->sliders->pdata[i])->name);
    return names;
}

static GPtrArray *lamp_names(const struct lex_handset *handset)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < handset->lamps->len; i++)
        g_ptr_array_add(names, ((struct lex_lamp *)handset->lamps->pdata[i])->name);
    return names;
}

char *handset_header(struct sender *s, const struct lex_handset *handset)
{
    const char *p = s->handset_prefix, *u = s->handset_upper;
    GString *out = g_string_new(NULL);
    GPtrArray *buttons = physical(handset), *sliders = slider_names(handset),
              *lamps = lamp_names(handset);
    bool sourced = s->link->senders > 0, tagged = s->link->tags != LEX_DEMAND_OFF;
    g_string_append_printf(
        out,
        "/* Handset %s of %s: its buttons, sliders and lamps, over link %s. Compile %s.c and %s.c\n"
        " * with your firmware. Call all of this from the main loop. */\n"
        "#ifndef %s_H\n#define %s_H\n\n#include \"%s.h\"\n\n"
        "#ifdef __cplusplus\nextern \"C\" {\n#endif\n\n"
        "#ifndef %s_DEBOUNCE_MS /* so long a contact has to rest */\n#define %s_DEBOUNCE_MS "
        "20\n#endif\n"
        "#ifndef %s_SAMPLE_MS /* so often sliders are read */\n#define %s_SAMPLE_MS 20\n#endif\n\n",
        handset->name, s->lx->name, s->link->name, p, s->prefix, u, u, s->prefix, u, u, u, u);
    put_enum(out, s, "BUTTON", buttons);
    put_enum(out, s, "SLIDER", sliders);
    put_enum(out, s, "LAMP", lamps);
    g_string_append_printf(out,
                           "\nstruct %s {\n    void *user; /* yours */\n    /* Private. */\n"
                           "    struct %s sender;\n",
                           p, s->prefix);
    g_string_append_printf(
        out,
        "    struct {\n        uint32_t since, repeat;\n        uint8_t row, due;\n"
        "        bool raw, down;\n    } button[%u];\n",
        MAX(buttons->len, 1));
    if (sliders->len)
        g_string_append_printf(
            out, "    struct {\n        uint16_t step, said;\n    } slider[%u];\n", sliders->len);
    g_string_append_printf(
        out,
        "};\n\n"
        "/* Starts it; keeps `user`. Nothing is pressed. Returns as %s_init(). */\n"
        "int %s_init(struct %s *h%s%s);\n"
        "/* Takes what was received. */\n"
        "void %s_receive(struct %s *h, const uint8_t *bytes, uint16_t count);\n"
        "/* Reads buttons and sliders, and sends what is due. Returns the milliseconds until the "
        "next\n"
        " * call is due; call it sooner when a button's pin changes. */\n"
        "uint32_t %s_poll(struct %s *h, uint32_t now_ms);\n\n"
        "/* Write these. Whether a button is down, as its contact is now. */\n"
        "bool %s_on_button(struct %s *h, enum %s_button button);\n",
        s->prefix, p, p, sourced ? ", uint8_t source" : "", tagged ? ", uint16_t start" : "", p, p,
        p, p, p, p, p);
    if (sliders->len)
        g_string_append_printf(out,
                               "/* Where a slider is, 0..65535 from end to end. */\n"
                               "uint16_t %s_on_slider(struct %s *h, enum %s_slider slider);\n",
                               p, p, p);
    if (lamps->len)
        g_string_append_printf(out,
                               "/* A lamp goes on or off. */\n"
                               "void %s_on_lamp(struct %s *h, enum %s_lamp lamp, bool on);\n",
                               p, p, p);
    g_string_append_printf(
        out,
        "/* All that is heard: for a display line, heard->text. */\n"
        "void %s_on_heard(struct %s *h, const struct %s_heard *heard);\n"
        "/* Sends these bytes; false: not now. */\n"
        "bool %s_on_write(struct %s *h, const uint8_t *bytes, uint8_t count);\n\n"
        "#ifdef __cplusplus\n}\n#endif\n\n#endif\n",
        p, p, s->prefix, p, p);
    g_ptr_array_free(buttons, TRUE);
    g_ptr_array_free(sliders, TRUE);
    g_ptr_array_free(lamps, TRUE);
    return g_string_free(out, FALSE);
}

/* ---- source ---- */

static void put_says(GString *out, unsigned number, const char *how, const char *text)
{
    if (!text) return;
    char *literal = sender_literal(text);
    g_string_append_printf(out, "    case %u * 3 + %s: return send(h, ROM(\"%s\"));\n", number, how,
                           literal);
    g_free(literal);
}

/* What each row says, and which row a button is now. */
static void put_rows(const struct sender *s, GString *out, const struct lex_handset *handset,
                     const GPtrArray *names)
{
    g_string_append_printf(out,
                           "/* One of the texts; nothing where there is none. False: no room. */\n"
                           "static bool say(struct %s *h, uint8_t row, uint8_t how)\n{\n"
                           "    switch (row * 3 + how) {\n",
                           s->handset_prefix);
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        put_says(out, i, "SAYS_PRESS", b->press);
        put_says(out, i, "SAYS_RELEASE", b->release);
        put_says(out, i, "SAYS_HELD", b->held);
    }
    g_string_append(out, "    default: return true;\n    }\n}\n\n"
                         "static bool has_held(uint8_t row)\n{\n    switch (row) {\n");
    for (unsigned i = 0; i < handset->buttons->len; i++)
        if (((struct lex_button *)handset->buttons->pdata[i])->held)
            g_string_append_printf(out, "    case %u: return true;\n", i);
    g_string_append_printf(
        out,
        "    default: return false;\n    }\n}\n\n"
        "/* What a button says now: beside another one that is held it may be something\n"
        " * else. */\nstatic uint8_t row_of(const struct %s *h, uint8_t button)\n{\n"
        "    (void)h;\n    switch (button) {\n",
        s->handset_prefix);
    for (unsigned n = 0; n < names->len; n++) {
        int plain = 255;
        g_string_append_printf(out, "    case %u:\n", n);
        for (unsigned i = 0; i < handset->buttons->len; i++) {
            const struct lex_button *b = handset->buttons->pdata[i];
            if (strcmp(b->name, names->pdata[n]) != 0) continue;
            if (b->with)
                g_string_append_printf(out, "        if (h->button[%u].down) return %u;\n",
                                       number_of(names, b->with), i);
            else
                plain = (int)i;
        }
        g_string_append_printf(out, "        return %d;\n", plain);
    }
    g_string_append(out, "    default: return 255;\n    }\n}\n\n");
    g_string_append_printf(
        out,
        "/* Whether another button, which is something else beside this one, is down "
        "now. */\nstatic bool is_beside(const struct %s *h, uint8_t button)\n{\n"
        "    (void)h, (void)button;\n",
        s->handset_prefix);
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        unsigned n = number_of(names, b->name);
        if (b->with)
            g_string_append_printf(
                out,
                "    if (button == %u && h->button[%u].down && h->button[%u].row "
                "== %u) return true;\n",
                number_of(names, b->with), n, n, i);
    }
    g_string_append(out, "    return false;\n}\n\n");
}

/* The first number of a slider's texts, and what each step adds, without its point. */
static void step_numbers(const GPtrArray *texts, gsize at, gsize behind, long *first, long *by,
                         unsigned *decimals)
{
    long value[2] = {0, 0};
    *decimals = 0;
    for (unsigned i = 0; i < 2 && i < texts->len; i++) {
        const char *text = texts->pdata[i];
        char *number = g_strndup(text + at, strlen(text) - at - behind),
             *point = strchr(number, '.');
        if (point) {
            *decimals = (unsigned)strlen(point + 1);
            memmove(point, point + 1, strlen(point));
        }
        value[i] = strtol(number, NULL, 0);
        g_free(number);
    }
    *first = value[0];
    *by = texts->len > 1 ? value[1] - value[0] : 0;
}

static void put_sliders(struct sender *s, GString *out, const struct lex_handset *handset)
{
    GString *steps = g_string_new(NULL), *says = g_string_new(NULL);
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *slider = handset->sliders->pdata[i];
        struct lexicon scratch = *s->lx; /* it has no fault: it was read before */
        GPtrArray *texts = lex_step_texts(&scratch, slider->text_place, slider->text);
        const char *open = strchr(slider->text, '{'), *close = strchr(slider->text, '}');
        char *before = g_strndup(slider->text, (gsize)(open - slider->text));
        char *head = sender_literal(before), *tail = sender_literal(close + 1);
        long first, by;
        unsigned decimals;
        step_numbers(texts, strlen(before), strlen(close + 1), &first, &by, &decimals);
        g_string_append_printf(steps, "    case %u: return %u;\n", i, texts->len);
        g_string_append_printf(says,
                               "    case %u:\n        put(&text, ROM(\"%s\"));\n"
                               "        put_number(&text, %ld + %ldL * step, %u);\n"
                               "        put(&text, ROM(\"%s\"));\n        break;\n",
                               i, head, first, by, decimals, tail);
        g_ptr_array_free(texts, TRUE);
        g_free(before), g_free(head), g_free(tail);
    }
    if (handset->sliders->len)
        g_string_append_printf(
            out,
            "static uint16_t steps_of(uint8_t slider)\n{\n    switch (slider) {\n%s    default: "
            "return "
            "1;\n    }\n}\n\nstatic void put_number(struct text *text, int32_t value, uint8_t "
            "decimals)\n{\n"
            "    char digit[11];\n    uint8_t n = 0;\n    uint32_t left = value < 0 ? 0u - "
            "(uint32_t)value : "
            "(uint32_t)value;\n    if (value < 0) put_char(text, '-');\n    do {\n        "
            "digit[n++] = "
            "(char)('0' + left %% 10u);\n        left /= 10u;\n    } while (left || n <= "
            "decimals);\n"
            "    while (n) {\n        put_char(text, digit[--n]);\n        if (decimals && n == "
            "decimals) "
            "put_char(text, '.');\n    }\n}\n\n"
            "static bool say_step(struct %s *h, uint8_t slider, uint16_t step)\n{\n    struct text "
            "text;\n"
            "    text.count = 0;\n    text.bytes[0] = 0;\n    switch (slider) {\n%s    default: "
            "return true;\n    "
            "}\n    return %s_send_text(&h->sender, text.bytes) != %s_QUEUE_FULL;\n}\n\n",
            steps->str, s->handset_prefix, says->str, s->prefix, s->upper);
    g_string_free(steps, TRUE);
    g_string_free(says, TRUE);
}

static void put_lamps(const struct sender *s, GString *out, const struct lex_handset *handset)
{
    g_string_append_printf(
        out,
        "/* The event's own word lights a lamp, another one puts it out. */\n"
        "static void light_lamps(struct %s *h, const struct %s_heard *heard)\n{\n"
        "    (void)h, (void)heard;\n",
        s->handset_prefix, s->prefix);
    for (unsigned i = 0; i < handset->lamps->len; i++) {
        const struct lex_lamp *lamp = handset->lamps->pdata[i];
        const struct lex_event *event = lexicon_event(s->lx, lamp->event);
        guint at = 0, word = 255;
        if (!event || !g_ptr_array_find(s->lx->events, event, &at)) continue;
        if (lamp->word && event->what)
            g_ptr_array_find_with_equal_func(event->what->words, lamp->word, g_str_equal, &word);
        char *name = lex_identifier(lamp->name, true);
        g_string_append_printf(out, "    if (heard->event == %u) %s_on_lamp(h, %s_LAMP_%s, ",
                               at + 1, s->handset_prefix, s->handset_upper, name);
        if (lamp->word)
            g_string_append_printf(out, "heard->word == %u);\n", word);
        else
            g_string_append(out, "true);\n");
        g_free(name);
    }
    g_string_append(out, "}\n\n");
}

void handset_put_source(struct sender *s, GString *out, const struct lex_handset *handset)
{
    GPtrArray *names = physical(handset);
    g_string_append_printf(
        out,
        "enum { SAYS_PRESS, SAYS_HELD, SAYS_RELEASE };\n\n"
        "struct text {\n    uint8_t count;\n    char bytes[%u];\n};\n\n"
        "static void put_char(struct text *text, char c)\n{\n"
        "    if (text->count + 1u < sizeof text->bytes) text->bytes[text->count++] = c;\n"
        "    text->bytes[text->count] = 0;\n}\n\n"
        "static void put(struct text *text, rom_text from)\n{\n"
        "    for (char c; (c = ROM_CHAR(from)) != 0; from++) put_char(text, c);\n}\n\n"
        "static bool send(struct %s *h, rom_text from)\n{\n    struct text text;\n    text.count = "
        "0;\n"
        "    text.bytes[0] = 0;\n    put(&text, from);\n"
        "    return %s_send_text(&h->sender, text.bytes) != %s_QUEUE_FULL;\n}\n\n",
        sender_command_bytes(s) + 1, s->handset_prefix, s->prefix, s->upper);
    put_rows(s, out, handset, names);
    put_sliders(s, out, handset);
    put_lamps(s, out, handset);
    g_ptr_array_free(names, TRUE);
}

unsigned handset_button_count(const struct lex_handset *handset)
{
    GPtrArray *names = physical(handset);
    unsigned count = names->len;
    g_ptr_array_free(names, TRUE);
    return count;
}

unsigned handset_longest(const struct sender *s)
{
    unsigned longest = 0;
    for (unsigned i = 0; i < s->lx->handsets->len; i++) {
        const struct lex_handset *handset = s->lx->handsets->pdata[i];
        if (strcmp(handset->link, s->link->name) != 0) continue;
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *b = handset->buttons->pdata[k];
            const char *const texts[] = {b->press, b->held, b->release};
            for (unsigned n = 0; n < G_N_ELEMENTS(texts); n++)
                if (texts[n]) longest = MAX(longest, (unsigned)strlen(texts[n]));
        }
    }
    return longest;
}
