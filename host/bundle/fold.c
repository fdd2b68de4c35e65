/* Puts C sources together into one, line by line, as a preprocessor would up to its macros.
 * Conditions that are known decide what stays; the others stay with their lines.
 * Macros are not replaced: what is put out can be read. */
#include "bundle/fold.h"

#include <string.h>

#include "bundle/value.h"

enum branch {
    BRANCH_IN,   /* it is known that this is compiled */
    BRANCH_OUT,  /* it is not; one behind it may be */
    BRANCH_OVER, /* one before it was */
    BRANCH_OPEN  /* the compiler decides */
};

struct condition {
    enum branch is;
    bool opened; /* a line #if stands in the output... */
    bool last;   /* ...and #else, too: whatever follows is not compiled */
};

struct fold {
    fold_source source;
    void *user;
    GHashTable *macros;  /* char *: char *, NULL: not known */
    GHashTable *systems; /* headers of the compiler that are there */
    GArray *conditions;  /* struct condition */
    GPtrArray *where;    /* folders of the files that are being put in */
    bool comment;        /* the line is within one */
};

struct fold *fold_new(fold_source source, void *user)
{
    struct fold *f = g_new0(struct fold, 1);
    f->source = source;
    f->user = user;
    f->macros = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    f->systems = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    f->conditions = g_array_new(FALSE, FALSE, sizeof(struct condition));
    f->where = g_ptr_array_new_with_free_func(g_free);
    return f;
}

void fold_free(struct fold *f)
{
    g_hash_table_destroy(f->macros);
    g_hash_table_destroy(f->systems);
    g_array_free(f->conditions, TRUE);
    g_ptr_array_free(f->where, TRUE);
    g_free(f);
}

void fold_define(struct fold *f, const char *name, const char *value)
{
    g_hash_table_insert(f->macros, g_strdup(name), g_strdup(value));
}

/* ---- conditions ---- */

static bool is_in(const struct fold *f)
{
    for (unsigned i = 0; i < f->conditions->len; i++) {
        enum branch is = g_array_index(f->conditions, struct condition, i).is;
        if (is == BRANCH_OUT || is == BRANCH_OVER) return false;
    }
    return true;
}

static bool is_open(const struct fold *f)
{
    for (unsigned i = 0; i < f->conditions->len; i++)
        if (g_array_index(f->conditions, struct condition, i).is == BRANCH_OPEN) return true;
    return false;
}

static void begin(struct fold *f, struct value value, const char *lines, GString *out)
{
    bool in = is_in(f);
    struct condition c = {!in            ? BRANCH_OVER
                          : !value.known ? BRANCH_OPEN
                          : value.is     ? BRANCH_IN
                                         : BRANCH_OUT,
                          false, false};
    if (c.is == BRANCH_OPEN) {
        g_string_append(out, lines);
        c.opened = true;
    }
    g_array_append_val(f->conditions, c);
}

/* #elif, or #else with `text` NULL. */
static void go_on(struct fold *f, const char *text, GString *out)
{
    struct condition *c = &g_array_index(f->conditions, struct condition, f->conditions->len - 1);
    enum branch was = c->is;
    c->is = BRANCH_OUT; /* those around it decide whether it counts at all */
    struct value value = text ? value_of(f->macros, text) : (struct value){true, 1};
    if (was == BRANCH_IN || was == BRANCH_OVER || c->last) {
        c->is = BRANCH_OVER;
        return;
    }
    c->is = !value.known ? BRANCH_OPEN : value.is ? BRANCH_IN : BRANCH_OUT;
    if (!value.known)
        g_string_append_printf(out, "#%s %s\n", c->opened ? "elif" : "if", text);
    else if (value.is && c->opened)
        g_string_append(out, "#else\n");
    /* behind an open #if the compiler decides about what is true here, too */
    c->last = value.known && value.is && c->opened;
    if (c->last) c->is = BRANCH_OPEN;
    c->opened |= !value.known;
}

static void end(struct fold *f, GString *out)
{
    if (g_array_index(f->conditions, struct condition, f->conditions->len - 1).opened)
        g_string_append(out, "#endif\n");
    g_array_set_size(f->conditions, f->conditions->len - 1);
}

/* ---- lines ---- */

/* Without comments. Owned by the caller. */
static char *bare(const char *text)
{
    GString *out = g_string_new(NULL);
    for (const char *at = text; *at; at++) {
        const char *over = at[0] == '/' && at[1] == '*' ? strstr(at + 2, "*/") : NULL;
        if (over)
            at = over + 1;
        else
            g_string_append_c(out, *at);
    }
    return g_strstrip(g_string_free(out, FALSE));
}

static void define(struct fold *f, const char *rest, const char *lines, GString *out)
{
    gsize n = 0;
    while (g_ascii_isalnum(rest[n]) || rest[n] == '_') n++;
    char *name = g_strndup(rest, n), *value = bare(rest + n);
    bool guard = !*value && g_str_has_suffix(name, "_H");
    char *text = is_open(f) ? g_strdup(VALUE_OPEN) : rest[n] == '(' ? NULL : g_strdup(value);
    g_hash_table_insert(f->macros, g_strdup(name), text);
    if (!guard) g_string_append(out, lines);
    g_free(name);
    g_free(value);
}

static bool put_file(struct fold *f, const char *path, GString *out);

static void include(struct fold *f, const char *rest, const char *lines, GString *out)
{
    char *what = bare(rest);
    const char *macro = g_hash_table_lookup(f->macros, what);
    if (macro) {
        g_free(what);
        what = g_strdup(macro);
    }
    if (*what == '<') {
        bool open = is_open(f);
        if (open || g_hash_table_add(f->systems, g_strdup(what))) g_string_append(out, lines);
        if (open) g_hash_table_remove(f->systems, what);
    } else {
        char *name = g_strndup(what + 1, strcspn(what + 1, "\""));
        if (!put_file(f, name, out)) g_string_append(out, lines);
        g_free(name);
    }
    g_free(what);
}

/* A directive with all its lines. */
static void direct(struct fold *f, const char *lines, GString *out)
{
    const char *at = strchr(lines, '#') + 1;
    while (*at == ' ' || *at == '\t') at++;
    gsize n = 0;
    while (g_ascii_isalpha(at[n])) n++;
    char *what = g_strndup(at, n), *rest = g_strstrip(g_strdup(at + n)), *text = bare(rest);
    if (!strcmp(what, "if")) {
        begin(f, value_of(f->macros, text), lines, out);
    } else if (!strcmp(what, "ifdef") || !strcmp(what, "ifndef")) {
        struct value value = value_defined(f->macros, text, strlen(text));
        if (what[2] == 'n') value.is = !value.is;
        begin(f, value, lines, out);
    } else if (!strcmp(what, "elif") || !strcmp(what, "else")) {
        go_on(f, what[2] == 'i' ? text : NULL, out);
    } else if (!strcmp(what, "endif")) {
        end(f, out);
    } else if (is_in(f)) {
        if (!strcmp(what, "include"))
            include(f, rest, lines, out);
        else if (!strcmp(what, "define"))
            define(f, rest, lines, out);
        else
            g_string_append(out, lines);
        if (!strcmp(what, "undef") && is_open(f))
            g_hash_table_insert(f->macros, g_strdup(text), g_strdup(VALUE_OPEN));
        else if (!strcmp(what, "undef"))
            g_hash_table_remove(f->macros, text);
    }
    g_free(what);
    g_free(rest);
    g_free(text);
}

/* Whether the next line is within a comment. */
static bool ends_in_comment(bool comment, const char *line)
{
    bool text = false;
    for (; *line; line++) {
        if (comment && line[0] == '*' && line[1] == '/') {
            comment = false;
            line++;
        } else if (!comment && !text && line[0] == '/' && line[1] == '*') {
            comment = true;
            line++;
        } else if (!comment && *line == '"' && line[-1] != '\\' && line[-1] != '\'') {
            text = !text;
        }
    }
    return comment;
}

static void put_line(struct fold *f, const char *lines, GString *out)
{
    const char *first = lines;
    while (*first == ' ' || *first == '\t') first++;
    bool directive = *first == '#' && !f->comment;
    if (directive)
        direct(f, lines, out);
    else if (is_in(f))
        g_string_append(out, lines);
    char *padded = g_strconcat(" ", lines, NULL); /* a quote looks at what is before it */
    f->comment = ends_in_comment(f->comment, padded + 1);
    g_free(padded);
}

/* False: there is no such file. */
static bool put_file(struct fold *f, const char *path, GString *out)
{
    const char *folder = f->where->len ? f->where->pdata[f->where->len - 1] : NULL;
    char *beside = folder ? g_build_filename(folder, path, NULL) : NULL;
    char *found = beside && f->source(f->user, beside) ? g_strdup(beside) : g_strdup(path);
    const char *text = f->source(f->user, found);
    const bool there = text != NULL;
    g_ptr_array_add(f->where, g_path_get_dirname(found));
    if (there && is_in(f) && g_str_has_suffix(found, ".c"))
        g_string_append_printf(out, "\n/* ======== %s ======== */\n\n", found);
    GString *lines = g_string_new(NULL);
    while (text && *text) {
        gsize n = strcspn(text, "\n");
        n += text[n] == '\n';
        g_string_append_len(lines, text, (gssize)n);
        text += n;
        bool continued = n > 1 && text[-2] == '\\';
        if (continued && *text) continue;
        put_line(f, lines->str, out);
        g_string_truncate(lines, 0);
    }
    g_string_free(lines, TRUE);
    g_ptr_array_set_size(f->where, (gint)f->where->len - 1);
    g_free(found);
    g_free(beside);
    return there;
}

void fold_file(struct fold *f, const char *path, GString *out)
{
    put_file(f, path, out);
}
