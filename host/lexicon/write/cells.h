/* Tables as text or as Markdown. */
#ifndef TABLE_H
#define TABLE_H

#include <glib.h>
#include <stdbool.h>

/* A table in either form: cells are collected, then laid out. */
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
/* Adds it below a head, and frees it; nothing where it has no cells. */
void table_put(GString *out, struct table *table, const char *head, bool markdown);

#endif
