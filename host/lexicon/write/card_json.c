#include <jansson.h>

#include "card.h"

static json_t *words_json(const struct lex_element *e)
{
    json_t *words = json_array();
    for (unsigned i = 0; i < e->words->len; i++)
        json_array_append_new(words, json_string(e->words->pdata[i]));
    return words;
}

/* A value in the words that say it, and the same as a number where it is a plain one. */
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
}

static json_t *slot_json(const struct lex_element *e)
{
    static const char *const kinds[] = {"word", "choice", "number", "set", "list", "text"};
    json_t *slot = json_pack("{s:s}", "kind", e->rest ? "rest" : kinds[e->kind]);
    if (e->text) json_object_set_new(slot, "name", json_string(e->text));
    if (e->optional)
        json_object_set_new(slot, "default",
                            e->kind == LEX_NUMBER ? value_json(e, e->fallback)
                                                  : json_string(e->words->pdata[e->fallback]));
    if (e->kind == LEX_NUMBER || e->kind == LEX_LIST) add_range(slot, e);
    if (e->kind == LEX_LIST) json_object_set_new(slot, "most", json_integer(e->most));
    if (e->kind == LEX_TEXT) {
        json_object_set_new(slot, "least_bytes", json_integer(e->low));
        json_object_set_new(slot, "most_bytes", json_integer(e->high));
    }
    if (e->words) json_object_set_new(slot, "words", words_json(e));
    return slot;
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
    if (effect->kind == LEX_CALL) {
        json_object_set_new(all, "calls", json_string(effect->handler));
    } else if (effect->which) {
        json_object_set_new(all, "output_slot", json_string(effect->which->text));
    } else {
        const struct lex_output *out = lx->outputs->pdata[effect->output];
        json_object_set_new(all, "output", json_string(out->name));
    }
    return all;
}

/* Keys and line ends are told as the bytes to send. */
static json_t *link_json(const struct lex_link *link)
{
    bool keys = link->frame == LEX_FRAME_KEYS;
    json_t *all = json_pack("{s:s, s:s, s:i, s:s}", "name", link->name, "medium", "serial", "baud",
                            (int)link->baud, "frame", keys ? "keys" : "line");
    json_t *list = json_array();
    if (!keys) {
        json_object_set_new(all, "longest", json_integer(link->longest));
        json_object_set_new(all, "end", json_pack("[i]", '\r'));
    }
    for (unsigned i = 0; i < link->keys->len; i++) {
        const struct lex_key *key = link->keys->pdata[i];
        json_array_append_new(list,
                              json_pack("{s:[i], s:s}", "bytes", (int)key->key, "text", key->text));
    }
    json_object_set_new(all, "keys", list);
    return all;
}

char *lexicon_card_json(const struct lexicon *lx, const struct image *image)
{
    json_t *commands = json_array(), *links = json_array();
    for (unsigned i = 0; i < lx->commands->len; i++)
        json_array_append_new(commands, command_json(lx, lx->commands->pdata[i]));
    for (unsigned i = 0; i < lx->links->len; i++)
        json_array_append_new(links, link_json(lx->links->pdata[i]));
    json_t *numbers = json_array();
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        const struct lex_number *number = lx->numbers->pdata[i];
        json_array_append_new(
            numbers, json_pack("{s:s, s:s}", "number", number->digits, "text", number->text));
    }
    json_t *all = json_pack("{s:s, s:i, s:s, s:b, s:i, s:o, s:o, s:o}", "lexicon", lx->name,
                            "version", (int)lx->version, "fingerprint", image->fingerprint,
                            "any_case", lx->any_case, "shorten", (int)lx->shorten, "commands",
                            commands, "numbers", numbers, "links", links);
    if (lx->title) json_object_set_new(all, "title", json_string(lx->title));
    char *json = json_dumps(all, JSON_INDENT(2)), *text = g_strconcat(json, "\n", NULL);
    free(json);
    json_decref(all);
    return text;
}
