/* Tables of a card: cells that become columns, Markdown or HTML.
 * Widths are worked out when all cells are there.
 * It knows nothing about lexicons. */
#include "lexicon/write/cells.h"

#include <string.h>

struct table table_new(const char *const *heads)
{
    struct table table = {heads, g_ptr_array_new_with_free_func(g_free), 0};
    while (heads[table.columns]) table.columns++;
    return table;
}

void table_cell(struct table *table, const char *format, ...)
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

/* The last column goes on below itself where the line would be longer than this. */
static unsigned most_columns = 80;

void table_columns(unsigned columns)
{
    most_columns = columns;
}

static void put_wrapped(GString *out, const char *text, size_t indent)
{
    size_t column = indent;
    while (*text) {
        size_t word = strcspn(text, " ") + strspn(text + strcspn(text, " "), " ");
        size_t shown = (size_t)g_utf8_strlen(text, (gssize)strcspn(text, " "));
        if (column > indent && column + shown > most_columns) {
            while (out->str[out->len - 1] == ' ') g_string_truncate(out, out->len - 1);
            g_string_append_c(out, '\n');
            put_padded(out, "", indent);
            column = indent;
        }
        g_string_append_len(out, text, (gssize)word);
        column += shown + 1;
        text += word;
    }
}

static void table_text(GString *out, struct table *table)
{
    size_t indent = 0;
    for (unsigned i = 0; i < table->cells->len; i++) {
        unsigned column = i % table->columns;
        bool last = column + 1 == table->columns;
        size_t width = width_of(table, column);
        if (!column) indent = 0;
        indent += 2;
        g_string_append(out, "  ");
        if (!last) {
            put_padded(out, table->cells->pdata[i], width);
            indent += width;
            continue;
        }
        put_wrapped(out, table->cells->pdata[i], indent);
        while (out->str[out->len - 1] == ' ') g_string_truncate(out, out->len - 1);
        g_string_append_c(out, '\n');
    }
}

void table_escaped(GString *out, const char *text)
{
    for (; *text; text++)
        g_string_append_printf(out, strchr("\\`*_[]<|&~", *text) ? "\\%c" : "%c", *text);
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
        table_escaped(out, table->cells->pdata[i]);
        g_string_append(out, (i + 1) % table->columns ? " " : " |\n");
    }
}

static void put_escaped_html(GString *out, const char *text)
{
    char *safe = g_markup_escape_text(text, -1);
    g_string_append(out, safe);
    g_free(safe);
}

static void table_html(GString *out, const struct table *table)
{
    g_string_append(out, "<table>\n<tr>");
    for (unsigned i = 0; i < table->columns; i++) {
        g_string_append(out, "<th scope=\"col\">");
        put_escaped_html(out, table->heads[i]);
        g_string_append(out, "</th>");
    }
    g_string_append(out, "</tr>\n");
    for (unsigned i = 0; i < table->cells->len; i++) {
        g_string_append(out, i % table->columns ? "<td>" : "<tr><td>");
        put_escaped_html(out, table->cells->pdata[i]);
        g_string_append(out, (i + 1) % table->columns ? "</td>" : "</td></tr>\n");
    }
    g_string_append(out, "</table>\n");
}

void table_head(GString *out, const char *head, enum table_form form)
{
    g_string_append(out, form == TABLE_HTML ? "<h2>" : form == TABLE_MARKDOWN ? "\n## " : "\n");
    if (form == TABLE_HTML)
        put_escaped_html(out, head);
    else
        g_string_append(out, head);
    g_string_append(out, form == TABLE_HTML ? "</h2>\n" : form == TABLE_MARKDOWN ? "\n\n" : "\n");
}

void table_lines(GString *out, const char *lines, enum table_form form)
{
    if (form == TABLE_HTML) {
        g_string_append(out, "<p>");
        put_escaped_html(out, lines);
        g_string_append(out, "</p>\n");
        return;
    }
    for (const char *at = lines, *end; (end = strchr(at, '\n')); at = end + 1) {
        if (form == TABLE_TEXT) g_string_append(out, "  ");
        g_string_append_len(out, at, end + 1 - at);
    }
}

void table_body(GString *out, struct table *table, enum table_form form)
{
    if (table->cells->len && form == TABLE_HTML)
        table_html(out, table);
    else if (table->cells->len && form == TABLE_MARKDOWN)
        table_markdown(out, table);
    else
        table_text(out, table);
    g_ptr_array_free(table->cells, TRUE);
}

void table_put(GString *out, struct table *table, const char *head, enum table_form form)
{
    if (table->cells->len) table_head(out, head, form);
    table_body(out, table, form);
}
