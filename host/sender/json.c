/* Puts the page of a lexicon together: one HTML file that speaks to a device.
 * What any page has stands in host/sender/page; the lexicon is in it as JSON: its card, and for
 * each link what can be asked over it. It speaks to nobody: the page does, in a browser. */
#include <jansson.h>
#include <string.h>

#include "lexicon/framing.h"
#include "lexicon/write/card.h"
#include "rlx/def/errors.h"
#include "sender/sender.h"
#include "sender/sender_parts.h"

static json_t *request_json(const struct sender *s, const struct request *r)
{
    static const char *const kinds[] = {[REQUEST_COMMAND] = "command",
                                        [REQUEST_QUERY] = "query",
                                        [REQUEST_SETTING] = "setting",
                                        [REQUEST_STATE] = "state",
                                        [REQUEST_BUILT_IN] = "built_in"};
    json_t *all =
        json_pack("{s:s, s:s, s:s?}", "kind", kinds[r->kind], "text", r->text, "title", r->title);
    guint number;
    if (r->command && g_ptr_array_find(s->lx->commands, r->command, &number))
        json_object_set_new(all, "command", json_integer(number));
    return all;
}

static void add_key(void *user, const char *code, const char *text)
{
    json_array_append_new(user, json_pack("[s, s]", code, text));
}

static json_t *link_json(const struct lexicon *lx, const struct image *image,
                         const struct lex_link *link)
{
    struct sender s;
    sender_begin(&s, lx, image, link);
    json_t *requests = json_array(), *keys = json_array();
    for (unsigned i = 0; i < s.requests->len; i++)
        json_array_append_new(requests, request_json(&s, s.requests->pdata[i]));
    sender_each_key(&s, add_key, keys);
    const struct lex_framing *framing = lex_framing_of(link);
    char *manner = sender_manner(link);
    json_t *all =
        json_pack("{s:s, s:i, s:i, s:b, s:s, s:b, s:i, s:i, s:i, s:b, s:o, s:o}", "name",
                  link->name, "tries", (int)sender_tries(link), "pause_ms",
                  (int)sender_pause_ms(link), "answered", (int)sender_is_answered(link), "manner",
                  manner, "keyed", (int)lex_is_keyed(link), "piece", (int)framing->piece, "packet",
                  (int)lex_comes_whole(link), "command_bytes", (int)sender_command_bytes(&s),
                  "code", link->code != NULL, "requests", requests, "keys", keys);
    g_free(manner);
    sender_end(&s);
    return all;
}

static json_t *texts_json(const GPtrArray *texts)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < texts->len; i++)
        json_array_append_new(all, json_string(texts->pdata[i]));
    return all;
}

static void set_text(const struct sender *s, json_t *button, const char *how, const char *said)
{
    char *text = said ? sender_text(s, said) : NULL;
    if (text) json_object_set_new(button, how, json_string(text));
    g_free(text);
}

static json_t *handset_json(const struct lexicon *lx, const struct image *image,
                            const struct lex_handset *handset)
{
    struct sender s;
    sender_begin(&s, lx, image, lexicon_link(lx, handset->link));
    json_t *buttons = json_array(), *sliders = json_array(), *lamps = json_array();
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        json_t *button = json_pack("{s:s, s:s?}", "name", b->name, "with", b->with);
        set_text(&s, button, "press", b->press);
        set_text(&s, button, "held", b->held);
        set_text(&s, button, "release", b->release);
        json_array_append_new(buttons, button);
    }
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *slider = handset->sliders->pdata[i];
        GPtrArray *texts = handset_steps(&s, slider);
        json_array_append_new(
            sliders, json_pack("{s:s, s:o}", "name", slider->name, "texts", texts_json(texts)));
        g_ptr_array_free(texts, TRUE);
    }
    for (unsigned i = 0; i < handset->lamps->len; i++) {
        const struct lex_lamp *lamp = handset->lamps->pdata[i];
        json_array_append_new(lamps, json_pack("{s:s, s:s, s:s?}", "name", lamp->name, "event",
                                               lamp->event, "word", lamp->word));
    }
    json_t *all = json_pack("{s:s, s:s, s:i, s:o, s:o, s:o}", "name", handset->name, "link",
                            handset->link, "repeat_ms", (int)handset->repeat, "buttons", buttons,
                            "sliders", sliders, "lamps", lamps);
    set_text(&s, all, "idle", handset->idle);
    sender_end(&s);
    return all;
}

static json_t *errors_json(void)
{
    json_t *all = json_array();
#define ERROR(number, id, name, sentence) \
    json_array_append_new(                \
        all, json_pack("{s:i, s:s, s:s}", "number", number, "name", name, "text", sentence));
    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
    return all;
}

bool sender_has_page(const struct lex_link *link)
{
    bool talks = !link->layout || (!lex_is_raw(link) && !link->layout->channels);
    return !link->seal && talks && link->answer_end != LEX_END_NONE;
}

json_t *sender_json(const struct lexicon *lx, const struct image *image)
{
    json_t *links = json_array(), *handsets = json_array();
    char *card = lexicon_card_json(lx, image);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (sender_has_page(link)) json_array_append_new(links, link_json(lx, image, link));
    }
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        const struct lex_link *of = lexicon_link(lx, handset->link);
        if (sender_has_page(of)) json_array_append_new(handsets, handset_json(lx, image, handset));
    }
    json_t *all = json_pack("{s:o, s:o, s:o, s:o}", "card", json_loads(card, 0, NULL), "links",
                            links, "handsets", handsets, "errors", errors_json());
    g_free(card);
    return all;
}
