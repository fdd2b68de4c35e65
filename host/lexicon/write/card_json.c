#include <jansson.h>

#include "card.h"

static json_t *words_json(const struct lex_element *e)
{
    json_t *words = json_array();
    for (unsigned i = 0; i < e->words->len; i++)
        json_array_append_new(words, json_string(e->words->pdata[i]));
    return words;
}

static json_t *slot_json(const struct lex_element *e)
{
    json_t *slot = json_object();
    if (e->optional)
        json_object_set_new(slot, "default",
                            e->kind == LEX_NUMBER ? json_integer(e->fallback)
                                                  : json_string(e->words->pdata[e->fallback]));
    if (e->text) json_object_set_new(slot, "name", json_string(e->text));
    if (e->kind == LEX_NUMBER) {
        json_object_set_new(slot, "kind", json_string("number"));
        json_object_set_new(slot, "low", json_integer(e->low));
        json_object_set_new(slot, "high", json_integer(e->high));
        json_object_set_new(slot, "digits", json_integer(lex_number_digits(e)));
        if (e->unit) json_object_set_new(slot, "unit", json_string(e->unit));
        if (e->glued) json_object_set_new(slot, "unit_required", json_true());
        return slot;
    }
    json_object_set_new(slot, "kind", json_string("choice"));
    json_object_set_new(slot, "words", words_json(e));
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
    json_t *all =
        json_pack("{s:s, s:i, s:s, s:b, s:i, s:o, s:o}", "lexicon", lx->name, "version",
                  (int)lx->version, "fingerprint", image->fingerprint, "any_case", lx->any_case,
                  "shorten", (int)lx->shorten, "commands", commands, "links", links);
    if (lx->title) json_object_set_new(all, "title", json_string(lx->title));
    char *json = json_dumps(all, JSON_INDENT(2)), *text = g_strconcat(json, "\n", NULL);
    free(json);
    json_decref(all);
    return text;
}
