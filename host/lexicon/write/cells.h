/* Tables and paragraphs as text, as Markdown or as HTML. */
#ifndef TABLE_H
#define TABLE_H

#include <glib.h>
#include <stdbool.h>

enum table_form { TABLE_TEXT, TABLE_MARKDOWN, TABLE_HTML };

/* A table in any form: cells are collected, then laid out. */
struct table {
    const char *const *heads; /* NULL-ended */
    GPtrArray *cells;         /* char *, row by row */
    unsigned columns;
};

struct table table_new(const char *const *heads);
/* Sets the width of every table from now on, in columns. Default: 80. */
void table_columns(unsigned columns);
/* The next cell, row by row. */
void table_cell(struct table *table, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* With a '\' before what means something in Markdown (CommonMark, and its tables): a
 * title is no markup. */
void table_escaped(GString *out, const char *text);
/* A head of its own. */
void table_head(GString *out, const char *head, enum table_form form);
/* Some lines below it, each ended by a '\n'. */
void table_lines(GString *out, const char *lines, enum table_form form);
/* Adds it below a head, and frees it; nothing where it has no cells. */
void table_put(GString *out, struct table *table, const char *head, enum table_form form);
/* The same without a head. */
void table_body(GString *out, struct table *table, enum table_form form);

#endif
