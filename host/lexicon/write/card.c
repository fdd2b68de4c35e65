#include "card.h"

#include <string.h>

#include "rlx/error.h"

/* A table in either form: cells are collected, then laid out. */
struct table {
    const char *const *heads; /* NULL-ended */
    GPtrArray *cells;         /* char *, row by row */
    unsigned columns;
};

static struct table table_new(const char *const *heads)
{
    struct table table = {heads, g_ptr_array_new_with_free_func(g_free), 0};
    while (heads[table.columns]) table.columns++;
    return table;
}

static void cell(struct table *table, const char *format, ...) G_GNUC_PRINTF(2, 3);
static void cell(struct table *table, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    g_ptr_array_add(table->cells, g_strdup_vprintf(format, args));
    va_end(args);
}

static size_t width_of(const struct table *table, unsigned column)
{
    size_t width = 0;
    for (unsigned i = column; i < table->cells->len; i += table->columns)
        width = MAX(width, (size_t)g_utf8_strlen(table->cells->pdata[i], -1));
    return width;
}

static void put_padded(GString *out, const char *text, size_t width)
{
    g_string_append(out, text);
    for (size_t n = (size_t)g_utf8_strlen(text, -1); n < width; n++) g_string_append_c(out, ' ');
}

static void table_text(GString *out, struct table *table)
{
    for (unsigned i = 0; i < table->cells->len; i++) {
        unsigned column = i % table->columns;
        bool last = column + 1 == table->columns;
        g_string_append(out, column ? "  " : "  ");
        put_padded(out, table->cells->pdata[i], last ? 0 : width_of(table, column));
        if (!last) continue;
        while (out->str[out->len - 1] == ' ') g_string_truncate(out, out->len - 1);
        g_string_append_c(out, '\n');
    }
}

/* '|' would end a cell. */
static void put_escaped(GString *out, const char *text)
{
    for (; *text; text++) g_string_append_printf(out, *text == '|' ? "\\%c" : "%c", *text);
}

static void table_markdown(GString *out, struct table *table)
{
    for (unsigned i = 0; i < table->columns; i++)
        g_string_append_printf(out, "| %s ", table->heads[i]);
    g_string_append(out, "|\n");
    for (unsigned i = 0; i < table->columns; i++) g_string_append(out, "| --- ");
    g_string_append(out, "|\n");
    for (unsigned i = 0; i < table->cells->len; i++) {
        g_string_append(out, "| ");
        put_escaped(out, table->cells->pdata[i]);
        g_string_append(out, (i + 1) % table->columns ? " " : " |\n");
    }
}

static void table_put(GString *out, struct table *table, bool markdown)
{
    if (markdown)
        table_markdown(out, table);
    else
        table_text(out, table);
    g_ptr_array_free(table->cells, TRUE);
}

/* ---- what is on the card ---- */

static void put_head(GString *out, const char *text, bool markdown)
{
    g_string_append_printf(out, markdown ? "\n## %s\n\n" : "\n%s\n", text);
}

/* As the lexicon writes it: pump, beacon toggle, glow 5%, dose(). */
static void put_effect(struct table *table, const struct lexicon *lx,
                       const struct lex_effect *effect)
{
    if (effect->kind == LEX_CALL) {
        cell(table, "%s()", effect->handler);
        return;
    }
    const char *name = effect->which
                           ? effect->which->text
                           : ((struct lex_output *)lx->outputs->pdata[effect->output])->name;
    char *argument = lex_effect_argument(lx, effect);
    const char *verb = effect->verb ? effect->verb->word : "";
    cell(table, "%s%s%s%s%s", name, *verb ? " " : "", verb, *argument ? " " : "", argument);
    g_free(argument);
}

static void put_commands(GString *out, const struct lexicon *lx, bool markdown)
{
    static const char *const heads[] = {"said", "does", "", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_effect *effect = &command->effect;
        char *text = lex_command_text(command);
        cell(&table, "%s", text);
        put_effect(&table, lx, effect);
        cell(&table, "%s", command->title ? command->title : "");
        g_free(text);
    }
    put_head(out, "Commands", markdown);
    table_put(out, &table, markdown);
    g_string_append_printf(out, "\n%sLetters: %s.", markdown ? "" : "  ",
                           lx->any_case ? "capital and small letters are the same" : "exactly so");
    if (lx->shorten)
        g_string_append_printf(
            out, " Words may be cut to %u letters\n%sor more where no other begins the same.",
            lx->shorten, markdown ? "" : "  ");
    g_string_append_c(out, '\n');
}

static void put_outputs(GString *out, const struct lexicon *lx, bool markdown)
{
    static const char *const heads[] = {"output", "is", "on", "when on", "from power-up", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *output = lx->outputs->pdata[i];
        cell(&table, "%s", output->name);
        cell(&table, "%s", output->kind == LEX_RELAY ? "relay" : "led");
        if (output->pwm)
            cell(&table, "PWM channel %u at %u Hz", output->pin, output->hz);
        else
            cell(&table, "pin %u", output->pin);
        cell(&table, "active %s", output->active_low ? "low" : "high");
        if (output->pwm)
            cell(&table, "safe %u %%", output->safe);
        else
            cell(&table, "safe %s", output->safe ? "on" : "off");
    }
    if (lx->outputs->len) put_head(out, "Outputs", markdown);
    table_put(out, &table, markdown && lx->outputs->len);
}

static void put_links(GString *out, const struct lexicon *lx, bool markdown)
{
    static const char *const heads[] = {"link", "is", "takes", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        bool keys = link->frame == LEX_FRAME_KEYS;
        cell(&table, "%s", link->name);
        cell(&table, "serial, %u baud, 8N1", link->baud);
        if (keys)
            cell(&table, "single keys");
        else
            cell(&table, "lines up to %u bytes", link->longest);
    }
    put_head(out, "Links", markdown);
    table_put(out, &table, markdown);
}

static void put_keys(GString *out, const struct lexicon *lx, bool markdown)
{
    static const char *const heads[] = {"link", "key", "byte", "stands for", NULL};
    struct table table = table_new(heads);
    unsigned count = 0;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->keys->len; k++, count++) {
            const struct lex_key *key = link->keys->pdata[k];
            cell(&table, "%s", link->name);
            cell(&table, "%c", key->key);
            cell(&table, "0x%02X", (unsigned char)key->key);
            cell(&table, "%s", key->text);
        }
    }
    if (count) put_head(out, "Keys", markdown);
    table_put(out, &table, markdown && count);
}

static void put_replies(GString *out, const struct lexicon *lx, const struct image *image,
                        bool markdown)
{
    static const char *const heads[] = {"answer", "means", NULL};
    struct table table = table_new(heads);
    if (!lx->silent) {
        cell(&table, "ready %s %u %s CAUSE", lx->name, lx->version, image->fingerprint);
        cell(&table, "it has started, for this reason");
    }
    cell(&table, "ok COMMAND");
    cell(&table, "done; a toggle tells what it led to");
    cell(&table, "ok COMMAND already");
    cell(&table, "it was so before");
#define ROW(number, id, name, sentence)      \
    if (image_can_fail(lx, image, number)) { \
        cell(&table, "err %s", name);        \
        cell(&table, "%s", sentence);        \
    }
    RLX_REPLY_ERRORS(ROW)
#undef ROW
    put_head(out, "Answers", markdown);
    table_put(out, &table, markdown);
}

static char *card(const struct lexicon *lx, const struct image *image, bool markdown)
{
    GString *out = g_string_new(NULL);
    g_string_append_printf(out, "%s%s", markdown ? "# " : "", lx->title ? lx->title : lx->name);
    g_string_append_printf(out, " (%s %u, %s)\n", lx->name, lx->version, image->fingerprint);
    put_commands(out, lx, markdown);
    put_keys(out, lx, markdown);
    put_outputs(out, lx, markdown);
    put_links(out, lx, markdown);
    put_replies(out, lx, image, markdown);
    return g_string_free(out, FALSE);
}

char *lexicon_card_text(const struct lexicon *lx, const struct image *image)
{
    return card(lx, image, false);
}

char *lexicon_card_markdown(const struct lexicon *lx, const struct image *image)
{
    return card(lx, image, true);
}
