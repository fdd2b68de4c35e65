/* The reference card as JSON, for programs that send.
 * Bytes that stand around a frame are given as they are.
 * It has no layout. */
#include <jansson.h>

#include "lexicon/answers.h"
#include "lexicon/contract.h"
#include "lexicon/read/reader.h"
#include "lexicon/write/card.h"
#include "lexicon/write/card_layouts.h"
#include "lexicon/framing.h"
#include "lexicon/kind.h"
#include "lexicon/slot.h"
#include "rlx/drive.h"
#include "lexicon/write/worked.h"
#include "rlx/image.h"
#include "rlx/wire.h"

static json_t *words_json(const struct lex_element *e)
{
    json_t *words = json_array();
    for (unsigned i = 0; i < e->words->len; i++)
        json_array_append_new(words, json_string(e->words->pdata[i]));
    return words;
}

/* A value as a text, and the same as a number where it is a plain one. */
static json_t *value_json(const struct lex_element *e, int32_t value)
{
    if (e->form == LEX_WHOLE) return json_integer(value);
    char *text = lex_value_text(e, value);
    json_t *json = json_string(text);
    g_free(text);
    return json;
}

static void add_range(json_t *slot, const struct lex_element *e)
{
    static const char *const forms[] = {"whole", "fraction", "hex", "time"};
    static const char *const units[] = {"ms", "s", "min", "h"};
    json_object_set_new(slot, "form", json_string(forms[e->form]));
    json_object_set_new(slot, "low", value_json(e, e->low));
    json_object_set_new(slot, "high", value_json(e, e->high));
    json_object_set_new(slot, "digits", json_integer(lex_number_digits(e)));
    if (e->form == LEX_FRACTION) json_object_set_new(slot, "decimals", json_integer(e->decimals));
    if (e->form == LEX_TIME) json_object_set_new(slot, "bare_unit", json_string(units[e->bare]));
    if (e->scaled)
        json_object_set_new(slot, "becomes", json_pack("[i, i]", (int)e->to_low, (int)e->to_high));
    if (e->unit) json_object_set_new(slot, "unit", json_string(e->unit));
    if (e->glued) json_object_set_new(slot, "unit_required", json_true());
    if (e->prefix) json_object_set_new(slot, "behind", json_string(e->prefix));
    if (e->from) json_object_set_new(slot, "low_by", json_string(e->from));
    if (e->upto) json_object_set_new(slot, "high_by", json_string(e->upto));
}

static json_t *slot_json(const struct lex_element *e)
{
    static const char *const kinds[] = {
#define ELEMENT(id, word) [LEX_##id] = #word,
        LEX_ELEMENTS(ELEMENT)
#undef ELEMENT
    };
    json_t *slot = json_pack("{s:s}", "kind", e->rest ? "rest" : kinds[e->kind]);
    if (e->text) json_object_set_new(slot, "name", json_string(e->text));
    if (e->optional)
        json_object_set_new(slot, "default",
                            e->kind == LEX_NUMBER ? value_json(e, e->fallback)
                                                  : json_string(e->words->pdata[e->fallback]));
    if (lex_has_numbers(e)) add_range(slot, e);
    switch (e->kind) {
    case LEX_WORD:
    case LEX_NUMBER: break;
    case LEX_CHOICE:
    case LEX_SET: json_object_set_new(slot, "words", words_json(e)); break;
    case LEX_LIST: json_object_set_new(slot, "most", json_integer(e->most)); break;
    case LEX_TEXT:
        json_object_set_new(slot, "least_bytes", json_integer(e->low));
        json_object_set_new(slot, "most_bytes", json_integer(e->high));
        break;
    }
    return slot;
}

static json_t *names_json(const GPtrArray *names)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < names->len; i++)
        json_array_append_new(all, json_string(names->pdata[i]));
    return all;
}

static json_t *slots_json(const GPtrArray *slots)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < slots->len; i++)
        json_array_append_new(all, slot_json(slots->pdata[i]));
    return all;
}

static void set_text(json_t *object, const char *key, const char *text)
{
    if (text) json_object_set_new(object, key, json_string(text));
}

/* What the function must do; nothing is set where it has no contract. */
static void set_contract(json_t *object, const struct lexicon *lx, const char *handler)
{
    const struct lex_contract *contract = lex_contract_of(lx, handler);
    if (!contract) return;
    GPtrArray *clauses = lex_contract_clauses(lx, contract);
    json_object_set_new(object, "contract", names_json(clauses));
    g_ptr_array_free(clauses, TRUE);
}

static json_t *command_json(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    json_t *pattern = json_array();
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD && e->words)
            json_array_append_new(
                pattern, json_pack("{s:s, s:o}", "kind", "word", "spellings", words_json(e)));
        else if (e->filler)
            json_array_append_new(pattern,
                                  json_pack("{s:s, s:s}", "kind", "filler", "word", e->text));
        else
            json_array_append_new(pattern,
                                  e->kind == LEX_WORD ? json_string(e->text) : slot_json(e));
    }
    char *text = lex_command_text(command);
    json_t *all = json_pack("{s:s, s:o}", "text", text, "pattern", pattern);
    g_free(text);
    if (command->title) json_object_set_new(all, "title", json_string(command->title));
    if (command->expires) json_object_set_new(all, "expires_ms", json_integer(command->expires));
    if (command->expires_by)
        json_object_set_new(all, "expires_by", json_string(command->expires_by));
    if (command->newest) json_object_set_new(all, "newest", json_true());
    char *guards = lex_guards_text(command);
    if (*guards) json_object_set_new(all, "waits", json_string(guards));
    g_free(guards);
    set_text(all, "code_setting", command->code);
    if (command->refuses) json_object_set_new(all, "refuses", names_json(command->refuses));
    if (command->told) json_object_set_new(all, "answer", slots_json(command->told));
    if (command->says) json_object_set_new(all, "says", json_string(command->says));
    if (command->already) json_object_set_new(all, "already", json_string(command->already));
    if (command->says && command->says_on->len)
        json_object_set_new(all, "says_on", names_json(command->says_on));
    if (effect->kind == LEX_CALL) {
        json_object_set_new(all, "calls", json_string(effect->handler));
        set_contract(all, lx, effect->handler);
    } else if (effect->kind == LEX_STORE) {
        const struct lex_setting *setting = lx->settings->pdata[effect->output];
        json_object_set_new(all, "stores", json_string(setting->name));
    } else if (effect->kind == LEX_RUN) {
        const struct lex_routine *routine = lx->routines->pdata[effect->output];
        json_object_set_new(all, effect->fixed == RLX_RUN ? "starts" : "stops",
                            json_string(routine->name));
    } else if (effect->which) {
        json_object_set_new(all, "output_slot", json_string(effect->which->text));
    } else {
        const struct lex_output *out = lx->outputs->pdata[effect->output];
        json_object_set_new(all, "output", json_string(out->name));
        if (effect->verb) json_object_set_new(all, "verb", json_string(effect->verb->word));
    }
    return all;
}

/* ---- links: what to send, as bytes ---- */

static json_t *string_json(const GString *text)
{
    json_t *bytes = json_array();
    for (gsize i = 0; i < text->len; i++)
        json_array_append_new(bytes, json_integer((unsigned char)text->str[i]));
    return bytes;
}

static json_t *bytes_json(const char *text)
{
    json_t *bytes = json_array();
    for (; *text; text++) json_array_append_new(bytes, json_integer((unsigned char)*text));
    return bytes;
}

static json_t *byte_json(char byte)
{
    return json_pack("[i]", (int)(guchar)byte);
}

static void set_number(json_t *object, const char *key, uint32_t number)
{
    if (number) json_object_set_new(object, key, json_integer(number));
}

static void add_framing(json_t *all, const struct lex_link *link)
{
    if (lex_framing_of(link)->lines) {
        json_object_set_new(all, "longest", json_integer(link->longest));
        json_object_set_new(all, "end", bytes_json("\r"));
    }
    if (link->frame == LEX_FRAME_ENDED) json_object_set_new(all, "end", byte_json(link->end));
    if (link->length) {
        json_object_set_new(all, "length", json_integer(link->length));
        json_object_set_new(all, "pad", byte_json(link->pad));
    }
    if (link->lead) json_object_set_new(all, "lead", byte_json(link->lead));
    if (link->answer_end)
        json_object_set_new(all, "answers_end", bytes_json(lex_end_bytes[link->answer_end]));
    if (lex_is_keyed(link))
        json_object_set_new(all, "answers_begin", json_pack("[i]", RLX_REPLY_LEAD));
    set_number(all, "gap_ms", link->gap);
    set_number(all, "payload", link->payload);
}

static void add_seal(json_t *all, const struct lexicon *lx, const struct lex_link *link)
{
    GPtrArray *keys = lex_keys_of(lx, link);
    json_t *list = json_array();
    char *context = lex_seal_context(lx, link);
    for (unsigned i = 0; i < keys->len; i++) {
        const struct lex_seal_key *key = keys->pdata[i];
        json_t *one = json_pack("{s:s, s:i}", "name", key->name, "number", (int)i + 1);
        set_number(one, "sender", key->sender);
        json_array_append_new(list, one);
    }
    json_object_set_new(all, "seal_keys", list);
    set_text(all, "seal_context", context);
    set_number(all, "session_ms", link->window);
    if (link->seal_halt) json_object_set_new(all, "seal_halt", json_true());
    g_free(context);
    g_ptr_array_free(keys, TRUE);
}

static void add_envelope(json_t *all, const struct lexicon *lx, const struct lex_link *link)
{
    static const char *const demands[] = {NULL, "optional", "required"};
    if (link->address >= 0) json_object_set_new(all, "address", json_integer(link->address));
    set_number(all, "senders", link->senders);
    set_text(all, "tags", demands[link->tags]);
    if (link->tags) {
        set_number(all, "tag_most", RLX_TAG_MOST);
        set_number(all, "tag_opens", RLX_TAG_OPENS);
        set_number(all, "tag_window_ms", link->window);
        if (link->tags_kept) json_object_set_new(all, "tags_kept", json_true());
    }
    set_text(all, "check", demands[link->check]);
    set_text(all, "seal", demands[link->seal]);
    if (link->seal) add_seal(all, lx, link);
    static const char *const replies[] = {"full", "short", "silent"};
    set_text(all, "replies", replies[link->replies]);
    char *form = worked_form(link);
    set_text(all, "envelope", form);
    g_free(form);
    if (link->check)
        json_object_set_new(all, "crc",
                            json_pack("{s:i, s:i, s:i, s:b, s:b, s:i, s:i, s:s, s:b}", "width", 16,
                                      "polynomial", 0x1021, "start", (int)RLX_CRC_START,
                                      "reflected", 0, "inverted", 0, "of_123456789", 0x29B1,
                                      "characters", 4, "zero", "@", "answer_goes_on",
                                      link->tags != 0));
    if (link->only->len) json_object_set_new(all, "only", names_json(link->only));
    if (link->locked->len) json_object_set_new(all, "denied", names_json(link->locked));
    if (link->allow->len) json_object_set_new(all, "allow", names_json(link->allow));
    set_text(all, "allow_setting", link->allow_setting);
    set_text(all, "code_setting", link->code);
    set_number(all, "stale_ms", link->stale);
    if (link->one_way) json_object_set_new(all, "one_way", json_true());
}

/* Keys, texts and line ends are given as the bytes to send and to expect; null in a code: any
 * digit.
 */
/* Of a text with values what stands before the first one. */
static json_t *own_text_json(const struct lex_text *own)
{
    struct answer_piece piece = {.length = 0};
    own_text_next(own, own->text, &piece);
    char *head = g_strndup(own->text, piece.length);
    json_t *all = json_pack("{s:s, s:o}", "instead_of", own->what, "bytes", bytes_json(head));
    if (piece.length != strlen(own->text)) json_object_set_new(all, "more", json_true());
    g_free(head);
    return all;
}

static json_t *link_json(const struct lexicon *lx, const struct lex_link *link)
{
    json_t *all = json_pack("{s:s, s:s, s:s}", "name", link->name, "medium",
                            lex_media[link->medium], "frame", lex_frames[link->frame]);
    json_t *keys = json_array(), *texts = json_array();
    set_number(all, "baud", link->baud);
    char format[LEX_FORMAT_TEXT];
    lex_format_text(&link->format, format);
    if (link->baud) json_object_set_new(all, "format", json_string(format));
    add_framing(all, link);
    add_envelope(all, lx, link);
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        json_t *bytes = bytes_json(key->code);
        for (size_t at = 0; link->frame == LEX_FRAME_CODES && key->code[at]; at++)
            if (key->code[at] == '#') json_array_set_new(bytes, at, json_null());
        json_array_append_new(keys, json_pack("{s:o, s:s}", "bytes", bytes, "text", key->text));
    }
    for (unsigned i = 0; i < link->texts->len; i++) {
        json_array_append_new(texts, own_text_json(link->texts->pdata[i]));
    }
    json_object_set_new(all, "keys", keys);
    if (link->layout && !lex_is_raw(link))
        json_object_set_new(all, "layout", card_layout_json(link));
    struct worked worked;
    if (worked_example(lx, link, &worked)) {
        json_t *example =
            json_pack("{s:s, s:o}", "command", worked.command, "frame", string_json(worked.frame));
        if (worked.answer) json_object_set_new(example, "answer", string_json(worked.answer));
        json_object_set_new(all, "example", example);
        worked_clear(&worked);
    }
    if (link->texts->len)
        json_object_set_new(all, "texts", texts);
    else
        json_decref(texts);
    return all;
}

/* ---- events ---- */

static json_t *events_json(const struct lexicon *lx)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        json_t *texts = json_array();
        for (unsigned k = 0; k < (event->what ? event->what->words->len : 1); k++) {
            char *text = g_strdup_printf("ev %s%s%s%s", event->confirmed ? "#N " : "", event->name,
                                         event->what ? " " : "",
                                         event->what ? (char *)event->what->words->pdata[k] : "");
            json_array_append_new(texts, json_string(text));
            g_free(text);
        }
        json_t *one = json_pack("{s:s, s:o, s:o, s:b}", "name", event->name, "texts", texts, "to",
                                names_json(event->to), "confirmed", (int)event->confirmed);
        if (event->kept) json_object_set_new(one, "kept", json_true());
        json_array_append_new(all, one);
    }
    return all;
}

static json_t *queries_json(const struct lexicon *lx)
{
    json_t *all = json_array();
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        char *text = lex_command_text(query->asked);
        json_t *one = json_pack("{s:s, s:o}", "text", text, "answer", slots_json(query->elements));
        if (query->of->len) json_object_set_new(one, "of", slots_json(query->of));
        set_contract(one, lx, query->handler);
        json_array_append_new(all, one);
        g_free(text);
    }
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        char *text = g_strconcat(setting->name, "?", NULL);
        const char *value = lexicon_is_code(lx, setting) ? NULL : setting->value;
        json_t *one = json_pack("{s:s, s:[o], s:s?}", "text", text, "answer",
                                slot_json(setting->slot), "setting", value);
        if (setting->saved_every)
            json_object_set_new(one, "saved_every_ms", json_integer(setting->saved_every));
        json_array_append_new(all, one);
        g_free(text);
    }
    return all;
}

static json_t *memory_json(const struct lexicon *lx)
{
    json_t *all =
        json_pack("{s:i, s:i}", "pages", (int)lx->nv_pages, "page_bytes", (int)lx->nv_page);
    if (lx->nv_endurance) json_object_set_new(all, "endurance", json_integer(lx->nv_endurance));
    if (lx->nv_erases) json_object_set_new(all, "erases_a_day", json_integer(lx->nv_erases));
    return all;
}

/* What a button sends: its text, and the bytes that go out over the link. */
static void set_said(json_t *button, const struct lex_link *link, const char *key, const char *text)
{
    if (!text) return;
    json_t *said = json_pack("{s:s, s:o}", "text", text, "bytes", bytes_json(text));
    if (link && !link->seal) {
        GString *frame = worked_frame(link, text);
        json_object_set_new(said, "frame", string_json(frame));
        g_string_free(frame, TRUE);
    }
    json_object_set_new(button, key, said);
}

static json_t *handset_json(const struct lexicon *lx, const struct lex_handset *handset)
{
    const struct lex_link *link = lexicon_link(lx, handset->link);
    json_t *buttons = json_array(), *sliders = json_array(), *lamps = json_array();
    for (unsigned i = 0; i < handset->buttons->len; i++) {
        const struct lex_button *b = handset->buttons->pdata[i];
        json_t *button = json_pack("{s:s}", "name", b->name);
        set_said(button, link, "press", b->press);
        set_said(button, link, "held", b->held);
        set_said(button, link, "release", b->release);
        set_text(button, "with", b->with);
        json_array_append_new(buttons, button);
    }
    for (unsigned i = 0; i < handset->sliders->len; i++) {
        const struct lex_slider *slider = handset->sliders->pdata[i];
        json_array_append_new(sliders,
                              json_pack("{s:s, s:s}", "name", slider->name, "text", slider->text));
    }
    for (unsigned i = 0; i < handset->lamps->len; i++) {
        const struct lex_lamp *l = handset->lamps->pdata[i];
        json_t *lamp = json_pack("{s:s, s:s}", "name", l->name, "event", l->event);
        set_text(lamp, "word", l->word);
        json_array_append_new(lamps, lamp);
    }
    json_t *all = json_pack("{s:s, s:s, s:o, s:o, s:o}", "name", handset->name, "link",
                            handset->link, "buttons", buttons, "sliders", sliders, "lamps", lamps);
    set_number(all, "repeat_ms", handset->repeat);
    set_said(all, link, "idle", handset->idle);
    return all;
}

static json_t *output_json(const struct lex_output *out)
{
    json_t *all = json_pack("{s:s, s:s}", "name", out->name, "kind", lex_output_kinds[out->kind]);
    json_t *permits = json_array();
    char *safe = lex_kind_of(out)->safe_text(out);
    set_text(all, "title", out->title);
    set_text(all, "safe", g_str_has_prefix(safe, "safe ") ? safe + 5 : NULL);
    g_free(safe);
    if (out->by)
        json_object_set_new(all, "by_firmware",
                            json_string(out->by == LEX_BY_FIRMWARE ? "any" : "safe"));
    for (unsigned i = 0; i < out->permits->len; i++) {
        const struct lex_permit *permit = out->permits->pdata[i];
        json_t *one = json_pack("{s:s, s:s, s:b}", "input", permit->name, "is", permit->word, "on",
                                (int)permit->on);
        set_text(one, "way", lex_permit_way(out, permit->ways));
        json_array_append_new(permits, one);
    }
    if (json_array_size(permits)) json_object_set(all, "only_while", permits);
    json_decref(permits);
    return all;
}

static json_t *input_json(const struct lex_input *in)
{
    json_t *all = json_pack("{s:s}", "name", in->name);
    set_text(all, "title", in->title);
    set_number(all, "debounce_ms", in->debounce);
    set_text(all, "debounce_by", in->debounce_by);
    set_number(all, "held_ms", in->held);
    set_number(all, "repeat_ms", in->repeat);
    return all;
}

static json_t *built_in_json(const struct lexicon *lx)
{
    json_t *all = json_array();
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        if (lx->built_in & b->bit) json_array_append_new(all, json_string(b->word));
    return all;
}

char *lexicon_card_json(const struct lexicon *lx, const struct image *image)
{
    json_t *commands = json_array(), *links = json_array();
    for (unsigned i = 0; i < lx->commands->len; i++)
        json_array_append_new(commands, command_json(lx, lx->commands->pdata[i]));
    for (unsigned i = 0; i < lx->links->len; i++)
        json_array_append_new(links, link_json(lx, lx->links->pdata[i]));
    json_t *numbers = json_array();
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        const struct lex_number *number = lx->numbers->pdata[i];
        json_array_append_new(numbers, json_pack("{s:s, s:s}",
                                                 lex_is_digits(number->said) ? "number" : "words",
                                                 number->said, "text", number->text));
    }
    json_t *all = json_pack("{s:s, s:i, s:s, s:b, s:i, s:o, s:o, s:o}", "lexicon", lx->name,
                            "version", (int)lx->version, "fingerprint", image->fingerprint,
                            "any_case", lx->any_case, "shorten", (int)lx->shorten, "commands",
                            commands, "numbers", numbers, "links", links);
    set_text(all, "title", lx->title);
    if (lx->built_in) json_object_set_new(all, "built_in", built_in_json(lx));
    json_t *outputs = json_array(), *inputs = json_array();
    for (unsigned i = 0; i < lx->outputs->len; i++)
        json_array_append_new(outputs, output_json(lx->outputs->pdata[i]));
    for (unsigned i = 0; i < lx->inputs->len; i++)
        json_array_append_new(inputs, input_json(lx->inputs->pdata[i]));
    json_object_set_new(all, "outputs", outputs);
    json_object_set_new(all, "inputs", inputs);
    if (lx->events->len) json_object_set_new(all, "events", events_json(lx));
    if (lx->queries->len + lx->settings->len) json_object_set_new(all, "queries", queries_json(lx));
    if (lx->nv_pages) json_object_set_new(all, "memory", memory_json(lx));
    json_t *handsets = json_array();
    for (unsigned i = 0; i < lx->handsets->len; i++)
        json_array_append_new(handsets, handset_json(lx, lx->handsets->pdata[i]));
    json_object_set_new(all, "handsets", handsets);
    char *json = json_dumps(all, JSON_INDENT(2)), *text = g_strconcat(json, "\n", NULL);
    free(json);
    json_decref(all);
    return text;
}
