#include "talk_parts.h"

#include <string.h>

/* A button of a handset, and whether somebody presses it. */
struct press {
    struct talk *talk;
    const struct lex_handset *handset;
    const struct lex_button *button;
    unsigned link;
    bool down;
    uint32_t version; /* of the repeats that are on their way */
};

/* ---- what it says ---- */

/* Over a link, without waiting for an answer. */
static void send(struct talk *t, unsigned number, const char *text)
{
    const struct lex_link *link = t->lx->links->pdata[number];
    struct way *way = talk_way(t, number);
    struct serial *serial = t->serials->pdata[number];
    size_t count = strlen(text);
    if (way && way->controller) {
        if (controller_say(way->controller, text) < 0)
            g_printerr("%s: \"%s\" is not said: too much waits for an answer\n", g_get_prgname(),
                       text);
        return;
    }
    talk_said(t, number, '>', text, count);
    if (way) {
        radio_send(way->radio, way->sender, (const uint8_t *)text, (unsigned)count);
    } else if (link->frame >= LEX_FRAME_PACKET) {
        device_packet(t->device, (uint8_t)number, (const uint8_t *)text, (unsigned)count);
    } else {
        serial_type(serial, (const uint8_t *)text, count);
        if (link->frame == LEX_FRAME_LINE) serial_type(serial, (const uint8_t *)"\r", 1);
        if (link->frame == LEX_FRAME_ENDED) serial_type(serial, (const uint8_t *)&link->end, 1);
        for (; link->frame == LEX_FRAME_FIXED && count < link->length; count++)
            serial_type(serial, (const uint8_t *)&link->pad, 1);
    }
}

static void on_repeat(void *data, uint32_t version)
{
    struct press *p = data;
    if (!p->down || version != p->version) return;
    send(p->talk, p->link, p->button->held);
    world_at(p->talk->world, p->talk->world->now_us + p->handset->repeat * UINT64_C(1000),
             on_repeat, p, version);
}

static void tell_use(struct talk *t, const struct lex_handset *handset, const char *name,
                     const char *how)
{
    char *text = g_strdup_printf("%s %s", name, how);
    trace_text(t->options->trace, t->world->now_us, "handset", handset->name, text, strlen(text));
    if (!t->options->plain) {
        talk_stamp(t, '!', handset->name);
        talk_text(t, text, strlen(text));
    }
    g_free(text);
}

/* ---- buttons ---- */

static bool is_down(const struct talk *t, const struct lex_handset *handset, const char *name)
{
    for (unsigned i = 0; i < t->presses->len; i++) {
        const struct press *p = t->presses->pdata[i];
        if (p->handset == handset && !strcmp(p->button->name, name)) return p->down;
    }
    return false;
}

/* Two held together may be a button of their own: it comes before the plain one. */
static struct press *press_of(struct talk *t, const char *name, bool down)
{
    struct press *plain = NULL;
    for (unsigned i = 0; i < t->presses->len; i++) {
        struct press *p = t->presses->pdata[i];
        if (strcmp(p->button->name, name) != 0) continue;
        if (!down && p->down) return p;
        if (p->button->with && is_down(t, p->handset, p->button->with)) return p;
        if (!p->button->with) plain = p;
    }
    return plain;
}

bool talk_press(struct talk *t, const char *name, bool down)
{
    struct press *p = press_of(t, name, down);
    if (!p) return false;
    if (p->down == down) return true;
    p->down = down;
    p->version++;
    tell_use(t, p->handset, name, down ? "pressed" : "released");
    const char *says = down ? p->button->press : p->button->release;
    if (says) send(t, p->link, says);
    if (down && p->button->held && p->handset->repeat)
        world_at(t->world, t->world->now_us + p->handset->repeat * UINT64_C(1000), on_repeat, p,
                 p->version);
    return true;
}

bool talk_slide(struct talk *t, const char *name, const char *value)
{
    for (unsigned i = 0; i < t->lx->handsets->len; i++) {
        const struct lex_handset *handset = t->lx->handsets->pdata[i];
        for (unsigned k = 0; k < handset->sliders->len; k++) {
            const struct lex_slider *slider = handset->sliders->pdata[k];
            const char *open = slider->text ? strchr(slider->text, '{') : NULL;
            const char *close = open ? strchr(open, '}') : NULL;
            if (strcmp(slider->name, name) != 0 || !close) continue;
            char *text = g_strdup_printf("%.*s%s%s", (int)(open - slider->text), slider->text,
                                         value, close + 1);
            tell_use(t, handset, name, value);
            for (unsigned n = 0; n < t->lx->links->len; n++)
                if (!strcmp(((struct lex_link *)t->lx->links->pdata[n])->name, handset->link))
                    send(t, n, text);
            g_free(text);
            return true;
        }
    }
    return false;
}

/* ---- lamps ---- */

/* An event that came over a link lights the lamps that are for it, and puts out those for its other
 * words. */
void talk_lamps(struct talk *t, unsigned number, const char *text, size_t count)
{
    const struct lex_link *link = t->lx->links->pdata[number];
    char *line = g_strndup(text, count), *at = strstr(line, "ev ");
    char **words = at ? g_strsplit(at, " ", 4) : NULL;
    unsigned first = words && words[1] && *words[1] == '#' ? 2 : 1; /* behind its number */
    const char *event = words && g_strv_length(words) > first ? words[first] : NULL;
    for (unsigned i = 0; event && i < t->lx->handsets->len; i++) {
        const struct lex_handset *handset = t->lx->handsets->pdata[i];
        if (g_strcmp0(handset->link, link->name) != 0) continue;
        for (unsigned k = 0; k < handset->lamps->len; k++) {
            const struct lex_lamp *lamp = handset->lamps->pdata[k];
            char *word = words[first + 1]
                             ? g_strndup(words[first + 1], strcspn(words[first + 1], "*"))
                             : NULL;
            bool lit = !lamp->word || !g_strcmp0(lamp->word, word);
            g_free(word);
            if (strncmp(event, lamp->event, strlen(lamp->event)) != 0) continue;
            if (t->options->plain) continue;
            talk_stamp(t, ':', handset->name);
            fprintf(t->out, "lamp %s %s\n", lamp->name, lit ? "on" : "off");
        }
    }
    g_strfreev(words);
    g_free(line);
}

void talk_begin_handsets(struct talk *t)
{
    t->presses = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; i < t->lx->handsets->len; i++) {
        const struct lex_handset *handset = t->lx->handsets->pdata[i];
        for (unsigned k = 0; k < handset->buttons->len; k++) {
            struct press *p = g_new0(struct press, 1);
            *p =
                (struct press){.talk = t, .handset = handset, .button = handset->buttons->pdata[k]};
            for (unsigned n = 0; n < t->lx->links->len; n++)
                if (!g_strcmp0(((struct lex_link *)t->lx->links->pdata[n])->name, handset->link))
                    p->link = n;
            g_ptr_array_add(t->presses, p);
        }
    }
}
