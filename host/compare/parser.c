/* Reads texts as a device of a lexicon does: by its own tables, over a link of reports that is
 * added because a line comes in one go there. Answers come in full and in the library's words, so
 * that each tells what was obeyed. What it means is worked out in meaning.c. */
#include "compare/compare_parts.h"

#include <string.h>

#include "lexicon/check/check.h"
#include "lexicon/write/table_image.h"
#include "rlx/def/replies.h"

#define LINK "rlx_compare"

static void on_sight(void *user, const struct sight *sight)
{
    struct parser *parser = user;
    if (sight->kind != SIGHT_ANSWERED || sight->end != parser->end || !parser->listens ||
        parser->answer)
        return;
    char *text = g_strchomp(g_strndup(sight->text, sight->count));
    if (g_str_has_prefix(text, RLX_TXT_OK) || g_str_has_prefix(text, "err"))
        parser->answer = text;
    else
        g_free(text);
}

/* An answer of its own is for the links that the file has, not for the one that is added. */
static void answer_elsewhere(const struct lexicon *lx, struct lex_command *command)
{
    if (!command->says || command->says_on->len) return;
    for (unsigned i = 0; i + 1 < lx->links->len; i++)
        g_ptr_array_add(command->says_on, g_strdup(((struct lex_link *)lx->links->pdata[i])->name));
    if (!command->says_on->len) g_ptr_array_add(command->says_on, g_strdup(""));
}

struct parser *parser_new(const char *file, GError **error)
{
    static const char added[] = "\nlink " LINK " report longest 254 open\n";
    char *text;
    gsize size;
    if (!g_file_get_contents(file, &text, &size, error)) return NULL;
    char *all = g_malloc(size + sizeof added);
    memcpy(all, text, size);
    memcpy(all + size, added, sizeof added);
    g_free(text);
    struct parser *parser = g_new0(struct parser, 1);
    parser->lx = lexicon_read_text(file, all, size + sizeof added - 1);
    for (unsigned i = 0; i < parser->lx->commands->len; i++)
        answer_elsewhere(parser->lx, parser->lx->commands->pdata[i]);
    parser->names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    bool sound = !lexicon_has(parser->lx, false);
    if (sound) parser->image = image_build(parser->lx);
    if (!parser->image || lexicon_has(parser->lx, false)) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s has faults: see rlx check", file);
        parser_free(parser);
        return NULL;
    }
    parser->bench = bench_new(parser->lx, parser->image, &parser->options, error);
    if (!parser->bench) {
        parser_free(parser);
        return NULL;
    }
    parser->end = bench_end(parser->bench, LINK);
    bench_watch(parser->bench, on_sight, parser);
    bench_start(parser->bench);
    return parser;
}

void parser_free(struct parser *parser)
{
    if (parser->bench) bench_free(parser->bench);
    image_free(parser->image);
    lexicon_free(parser->lx);
    g_hash_table_destroy(parser->names);
    g_free(parser);
}

/* ---- a text ---- */

/* The answer to the text, by a device that was just switched on and has kept nothing. Owned by the
 * caller. */
static char *answer_to(struct parser *parser, const char *text)
{
    struct device *device = parser->end->board->device;
    parser->listens = false;
    device_board(device)->nv_kept = false;
    device_reset(device, RLX_RESET_POWER);
    bench_until_all_quiet(parser->bench);
    parser->listens = true;
    bench_say(parser->end, text, strlen(text));
    bench_until_quiet(parser->end);
    char *answer = g_steal_pointer(&parser->answer);
    return answer ? answer : g_strdup("");
}

/* Cuts off what tells how it was before. */
static void cut_answer(char *answer)
{
    char *waiting = strstr(answer, RLX_TXT_WAITING);
    if (waiting) *waiting = 0;
    if (g_str_has_suffix(answer, " already")) answer[strlen(answer) - strlen(" already")] = 0;
}

/* Whether the text ends with toggle, or the beginning of it. */
static bool toggles(const char *text)
{
    const char *last = strrchr(text, ' ');
    char *word = g_ascii_strdown(last ? last + 1 : "", -1);
    bool is = *word && g_str_has_prefix("toggle", word);
    g_free(word);
    return is;
}

/* Most values that a handler answers with. */
static unsigned most_told(const struct lexicon *lx)
{
    unsigned most = 0;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->told) most = MAX(most, command->told->len);
    }
    return most;
}

/* Whether the first word asks. */
static bool is_asked(const char *text)
{
    while (*text == ' ') text++;
    size_t n = strcspn(text, " ");
    return n && text[n - 1] == '?';
}

/* The command whose words an answer has: what a toggle led to stands in the place of that word, or
 * behind the command. */
static const struct lex_command *command_of(const struct parser *parser, const char *text,
                                            const char *answer, int32_t values[15], unsigned *given)
{
    char *words = g_strdup(answer), *last = strrchr(words, ' ');
    const struct lex_command *command = NULL;
    if (last && toggles(text) && (!strcmp(last, " on") || !strcmp(last, " off"))) {
        *last = 0;
        char *toggle = g_strconcat(words, " toggle", NULL);
        command = lex_command_taking(parser->lx, toggle, values, given);
        g_free(toggle);
    }
    if (!command) command = lex_command_taking(parser->lx, answer, values, given);
    if (!command) command = lex_command_taking(parser->lx, words, values, given);
    for (unsigned i = 0; !command && i < MAX(1, most_told(parser->lx)); i++) {
        if (!(last = strrchr(words, ' '))) break;
        *last = 0;
        command = lex_command_taking(parser->lx, words, values, given);
    }
    g_free(words);
    return command;
}

struct reading parser_read(struct parser *parser, const char *text)
{
    struct reading r = {.answer = answer_to(parser, text)};
    int32_t values[15];
    unsigned given = 0;
    r.obeyed = g_str_has_prefix(r.answer, RLX_TXT_OK);
    if (!r.obeyed) return r;
    cut_answer(r.answer);
    const char *words = r.answer + strlen(RLX_TXT_OK);
    words += *words == ' ';
    const bool asks = is_asked(text);
    if (!asks) r.command = command_of(parser, text, words, values, &given);
    if (r.command) {
        r.means = meaning_of(parser, r.command, values, given);
        return r;
    }
    char *first = g_strndup(words, strcspn(words, " "));
    r.means = asks ? meaning_asked(parser, first, words + strlen(first)) : NULL;
    r.word = g_strconcat(first, asks ? "?" : "", NULL);
    if (!r.means) r.means = g_strdup(first);
    g_free(first);
    return r;
}

void reading_clear(struct reading *reading)
{
    g_free(reading->answer);
    g_free(reading->means);
    g_free(reading->word);
}
