/* Collects faults and writes them with their line, a caret and the word probably meant.
 * Faults are kept in the order of the file.
 * It decides nothing about severity. */
#include "lexicon/read/reader.h"

#include <string.h>

static struct lex_fault *add(struct lexicon *lx, enum lex_code code, struct lex_place place,
                             char *text)
{
    struct lex_fault *fault = g_new0(struct lex_fault, 1);
    fault->text = text;
    fault->code = code;
    fault->place = place;
    g_ptr_array_add(lx->faults, fault);
    return fault;
}

void lex_fault(struct lexicon *lx, struct lex_place place, const char *format, ...)
{
    va_list args;
    va_start(args, format);
    add(lx, LEX_F01, place, g_strdup_vprintf(format, args));
    va_end(args);
}

void lex_too_many(struct lexicon *lx, struct lex_place place, unsigned most, const char *what)
{
    if (!lx->full) lex_fault(lx, place, "more than %u %s: the rest is not read", most, what);
    lx->full = true;
}

struct lex_fault *lex_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                           const char *format, ...)
{
    va_list args;
    va_start(args, format);
    struct lex_fault *fault = add(lx, code, place, g_strdup_vprintf(format, args));
    va_end(args);
    return fault;
}

bool lexicon_has(const struct lexicon *lx, bool warnings)
{
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        enum severity severity = lex_codes[fault->code].severity;
        if (severity == SEVERITY_ERROR) return true;
        if (severity == SEVERITY_WARNING && warnings && !fault->reason) return true;
    }
    return false;
}

bool lexicon_misread(const struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->faults->len; i++)
        if (((struct lex_fault *)lx->faults->pdata[i])->code <= LEX_F02) return true;
    return false;
}

/* Letters to change, add, drop or swap to make one word of the other. */
static unsigned distance(const char *a, const char *b)
{
    size_t n = strlen(a), m = strlen(b);
    if (n > 31 || m > 31) return 99;
    unsigned row[33][33];
    for (size_t i = 0; i <= n; i++) {
        for (size_t j = 0; j <= m; j++) {
            if (!i || !j) {
                row[i][j] = (unsigned)(i + j);
                continue;
            }
            unsigned change = row[i - 1][j - 1] + (a[i - 1] != b[j - 1]);
            unsigned least = MIN(change, MIN(row[i - 1][j], row[i][j - 1]) + 1);
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                least = MIN(least, row[i - 2][j - 2] + 1);
            row[i][j] = least;
        }
    }
    return row[n][m];
}

const char *lex_nearest(const char *word, const char *const *words)
{
    const char *best = NULL;
    unsigned least = (unsigned)strlen(word) < 4 ? 2 : 3; /* must be below */
    for (; *words; words++) {
        unsigned d = distance(word, *words);
        if (d < least) {
            least = d;
            best = *words;
        }
    }
    return best;
}

char *lex_did_you_mean(const char *word, const char *const *words)
{
    const char *near = lex_nearest(word, words);
    return near ? g_strdup_printf("; did you mean '%s'?", near) : g_strdup("");
}

char *lex_did_you_mean_output(const struct lexicon *lx, const char *word)
{
    GPtrArray *names = g_ptr_array_new();
    for (unsigned i = 0; i < lx->outputs->len; i++)
        g_ptr_array_add(names, ((struct lex_output *)lx->outputs->pdata[i])->name);
    g_ptr_array_add(names, NULL);
    char *text = lex_did_you_mean(word, (const char *const *)names->pdata);
    g_ptr_array_free(names, TRUE);
    return text;
}

static int by_place(const void *a, const void *b)
{
    const struct lex_fault *x = *(struct lex_fault *const *)a, *y = *(struct lex_fault *const *)b;
    if (x->place.file != y->place.file) return x->place.file < y->place.file ? -1 : 1;
    if (x->place.line != y->place.line) return x->place.line < y->place.line ? -1 : 1;
    return x->place.column < y->place.column ? -1 : x->place.column > y->place.column;
}

/* The source line and a caret under the place. Tabs stay tabs, so that the caret stands right. */
static void show_place(GString *out, const struct lexicon *lx, struct lex_place place)
{
    const char *line = lex_source_line(lx, place.file, place.line), *p = line;
    g_string_append_printf(out, "    %s\n    ", line);
    for (unsigned i = 0; i < place.column; i++) {
        g_string_append_c(out, *p == '\t' ? '\t' : ' ');
        if (*p) p = g_utf8_next_char(p);
    }
    for (unsigned i = 0; i < MAX(place.length, 1); i++) g_string_append_c(out, '^');
    g_string_append_c(out, '\n');
}

static void show(GString *out, const struct lexicon *lx, const struct lex_fault *fault)
{
    static const char *const severities[] = {"error", "warning", "note"};
    const struct lex_code_info *info = &lex_codes[fault->code];
    g_string_append(out, lex_source_file(lx, fault->place.file));
    if (fault->place.line)
        g_string_append_printf(out, ":%u:%u", fault->place.line, fault->place.column + 1);
    g_string_append_printf(out, ": %s%s %s: %s\n", fault->reason ? "accepted " : "",
                           severities[info->severity], info->code, fault->text);
    if (fault->place.line) show_place(out, lx, fault->place);
    if (fault->reason)
        g_string_append_printf(out, "    accepted: %s\n", fault->reason);
    else if (fault->advice)
        g_string_append_printf(out, "    try: %s\n", fault->advice);
}

char *lexicon_faults_text(const struct lexicon *lx, unsigned most)
{
    GString *out = g_string_new(NULL);
    g_ptr_array_sort(lx->faults, by_place);
    for (unsigned i = 0; i < lx->faults->len && i < most; i++) show(out, lx, lx->faults->pdata[i]);
    if (lx->faults->len > most)
        g_string_append_printf(out, "%s: %u more faults not shown\n", lx->file,
                               lx->faults->len - most);
    for (char *c = out->str; *c; c++) /* nothing of a file moves a terminal */
        if (((unsigned char)*c < ' ' && *c != '\n' && *c != '\t') || *c == 0x7F) *c = '?';
    return g_string_free(out, FALSE);
}
