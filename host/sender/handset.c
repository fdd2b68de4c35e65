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

static void put_struct(const struct sender *s, GString *out, const struct lex_handset *handset,
                       unsigned buttons, unsigned sliders)
{
    g_string_append_printf(out,
                           "\nstruct %s {\n    void *user; /* yours */\n    /* Private. */\n"
                           "    struct %s sender;\n",
                           s->handset_prefix, s->prefix);
    if (buttons)
        g_string_append_printf(
            out,
            "    struct {\n        uint32_t since, repeat;\n        uint8_t row, due;\n"
            "        bool raw, down;\n    } button[%u];\n",
            buttons);
    if (buttons && handset->idle) g_string_append(out, "    bool idle;\n");
    if (sliders)
        g_string_append_printf(
            out, "    struct {\n        uint16_t step, sent;\n    } slider[%u];\n", sliders);
    g_string_append(out, "};\n\n");
}

static void put_calls(const struct sender *s, GString *out)
{
    const char *p = s->handset_prefix;
    g_string_append_printf(
        out,
        "/* Starts it; keeps `user`. Nothing is pressed. Returns as %s_init(). */\n"
        "int %s_init(struct %s *h%s%s);\n"
        "/* Takes received bytes. */\n"
        "void %s_receive(struct %s *h, const uint8_t *bytes, uint16_t count);\n"
        "/* Reads buttons and sliders, and sends what is due. Returns the milliseconds until the "
        "next\n"
        " * call is due; call it sooner when a button's pin changes. */\n"
        "uint32_t %s_poll(struct %s *h, uint32_t now_ms);\n\n",
        s->prefix, p, p, s->link->senders > 0 ? ", uint8_t source" : "",
        s->link->tags != LEX_DEMAND_OFF ? ", uint16_t start" : "", p, p, p, p);
}

/* What the user writes. */
static void put_own(const struct sender *s, GString *out, unsigned buttons, unsigned sliders,
                    unsigned lamps)
{
    const char *p = s->handset_prefix;
    g_string_append(out, "/* Write these functions. */\n");
    if (buttons)
        g_string_append_printf(out,
                               "/* Whether a button is down, as its contact is now. */\n"
                               "bool %s_on_button(struct %s *h, enum %s_button button);\n",
                               p, p, p);
    if (sliders)
        g_string_append_printf(out,
                               "/* Where a slider is, 0..65535 from end to end. */\n"
                               "uint16_t %s_on_slider(struct %s *h, enum %s_slider slider);\n",
                               p, p, p);
    if (lamps)
        g_string_append_printf(out,
                               "/* A lamp goes on or off. */\n"
                               "void %s_on_lamp(struct %s *h, enum %s_lamp lamp, bool on);\n",
                               p, p, p);
    g_string_append_printf(
        out,
        "/* A result or an event came: for a display line, heard->text. */\n"
        "void %s_on_heard(struct %s *h, const struct %s_heard *heard);\n"
        "/* Sends these bytes; false: not now. */\n"
        "bool %s_on_write(struct %s *h, const uint8_t *bytes, uint8_t count);\n\n",
        p, p, s->prefix, p, p);
}

char *handset_header(struct sender *s, const struct lex_handset *handset)
{
    const char *p = s->handset_prefix, *u = s->handset_upper;
    GString *out = g_string_new(NULL);
    GPtrArray *buttons = physical(handset), *sliders = slider_names(handset),
              *lamps = lamp_names(handset);
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
    put_struct(s, out, handset, buttons->len, sliders->len);
    put_calls(s, out);
    put_own(s, out, buttons->len, sliders->len, lamps->len);
    g_string_append(out, "#ifdef __cplusplus\n}\n#endif\n\n#endif\n");
    g_ptr_array_free(buttons, TRUE);
    g_ptr_array_free(sliders, TRUE);
    g_ptr_array_free(lamps, TRUE);
    return g_string_free(out, FALSE);
}

/* ---- source ---- */

static void put_says(const struct sender *s, GString *out, unsigned number, const char *how,
                     const char *said)
{
    if (!said) return;
    char *text = sender_text(s, said), *literal = sender_literal(text);
    g_string_append_printf(out, "    case %u * 3 + %s: put_text(&line, ROM(\"%s\")); break;\n",
                           number, how, literal);
    g_free(literal), g_free(text);
}

/* What each row says, and which row a button is now. */
static void put_rows(const struct sender *s, GString *out, const struct lex_handset *handset,
                     const GPtrArray *names)
{
    g_string_append_printf(out,
                           "/* One of the texts; nothing where there is none. False: no room. */\n"
                           "static bool say(struct %s *h, uint8_t row, uint8_t how)\n{\n"
                           "    struct line line;\n    begin_line(&line);\n"
                           "    switch (row * 3 + how) {\n",
                           s->handset_prefix);
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        put_says(s, out, i, "SAYS_PRESS", b->press);
        put_says(s, out, i, "SAYS_RELEASE", b->release);
        put_says(s, out, i, "SAYS_HELD", b->held);
    }
    put_says(s, out, handset->buttons->len, "SAYS_PRESS", handset->idle);
    g_string_append(out, "    default: return true;\n    }\n    return send(h, &line);\n}\n\n"
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

/* The numbers that stand in a slider's texts: the first, what each step adds, both without their
 * point, and how they are written. */
struct steps {
    long first, by;
    unsigned decimals;
    bool hex;
};

static struct steps steps_of(const GPtrArray *texts, gsize at, gsize behind)
{
    struct steps steps = {.first = 0};
    long value[2] = {0, 0};
    for (unsigned i = 0; i < 2 && i < texts->len; i++) {
        const char *text = texts->pdata[i];
        char *number = g_strndup(text + at, strlen(text) - at - behind),
             *point = strchr(number, '.');
        if (point) {
            steps.decimals = (unsigned)strlen(point + 1);
            memmove(point, point + 1, strlen(point));
        }
        steps.hex = g_str_has_prefix(number, "0x");
        value[i] = strtol(number, NULL, steps.hex ? 16 : 10);
        g_free(number);
    }
    steps.first = value[0];
    steps.by = texts->len > 1 ? value[1] - value[0] : 0;
    return steps;
}

GPtrArray *handset_steps(const struct sender *s, const struct lex_slider *slider)
{
    struct lexicon scratch = *s->lx; /* it has no fault: it was read before */
    GPtrArray *said = lex_step_texts(&scratch, slider->text_place, slider->text);
    GPtrArray *texts = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < said->len; i++) g_ptr_array_add(texts, sender_text(s, said->pdata[i]));
    g_ptr_array_free(said, TRUE);
    return texts;
}

/* Over keys: one text of all. */
static void put_listed_step(GString *out, unsigned number, const GPtrArray *texts)
{
    g_string_append_printf(out, "    case %u: put_word(&line, step, %u, ROM(", number, texts->len);
    for (unsigned i = 0; i < texts->len; i++) {
        char *literal = sender_literal(texts->pdata[i]);
        g_string_append_printf(out, "%s\"%s\\0\"", i ? " " : "", literal);
        g_free(literal);
    }
    g_string_append(out, ")); break;\n");
}

/* How a slider's value is put into its line. */
static void put_step(GString *out, unsigned number, const struct lex_slider *slider,
                     const GPtrArray *texts)
{
    const char *open = strchr(slider->text, '{'), *close = strchr(slider->text, '}');
    char *before = g_strndup(slider->text, (gsize)(open - slider->text));
    char *head = sender_literal(before), *tail = sender_literal(close + 1);
    struct steps steps = steps_of(texts, strlen(before), strlen(close + 1));
    char *value = g_strdup_printf("(int32_t)(%ld + %ldL * step)", steps.first, steps.by);
    g_string_append_printf(out, "    case %u:\n        put_text(&line, ROM(\"%s\"));\n", number,
                           head);
    if (steps.hex)
        g_string_append_printf(out, "        put_hex(&line, %s, 0, INT32_MAX);\n", value);
    else
        g_string_append_printf(out, "        put_digits(&line, %s, %u);\n", value, steps.decimals);
    g_string_append_printf(out, "        put_text(&line, ROM(\"%s\"));\n        break;\n", tail);
    g_free(before), g_free(head), g_free(tail), g_free(value);
}

static void put_sliders(struct sender *s, GString *out, const struct lex_handset *handset)
{
    GString *steps = g_string_new(NULL), *says = g_string_new(NULL);
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *slider = handset->sliders->pdata[i];
        GPtrArray *texts = handset_steps(s, slider);
        g_string_append_printf(steps, "    case %u: return %u;\n", i, texts->len);
        if (lex_is_keyed(s->link))
            put_listed_step(says, i, texts);
        else
            put_step(says, i, slider, texts);
        g_ptr_array_free(texts, TRUE);
    }
    g_string_append_printf(
        out,
        "static uint16_t steps_of(uint8_t slider)\n{\n    switch (slider) {\n%s"
        "    default: return 1;\n    }\n}\n\n"
        "static bool say_step(struct %s *h, uint8_t slider, uint16_t step)\n{\n"
        "    struct line line;\n    begin_line(&line);\n    switch (slider) {\n%s"
        "    default: return true;\n    }\n    return send(h, &line);\n}\n\n",
        steps->str, s->handset_prefix, says->str);
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
        "static inline bool send(struct %s *h, const struct line *line)\n{\n"
        "    return %s_send_text(&h->sender, line->text) != %s_QUEUE_FULL;\n}\n\n",
        s->handset_prefix, s->prefix, s->upper);
    if (names->len) put_rows(s, out, handset, names);
    if (handset->sliders->len) put_sliders(s, out, handset);
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
        if (handset->idle) longest = MAX(longest, (unsigned)strlen(handset->idle));
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            const struct lex_button *b = handset->buttons->pdata[k];
            const char *const texts[] = {b->press, b->held, b->release};
            for (unsigned n = 0; n < G_N_ELEMENTS(texts); n++)
                if (texts[n]) longest = MAX(longest, (unsigned)strlen(texts[n]));
        }
    }
    return longest;
}
