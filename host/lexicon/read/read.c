/* Reads a lexicon file, statement by statement, into the model.
 * Each statement's first word leads to its reader; a fault does not end the reading.
 * Design faults are the checker's. */
#include "lexicon/names.h"
#include "files/files.h"
#include "lexicon/read/reader.h"
#include "rlx/config.h"

#include <string.h>

/* Longest line in bytes. */
#define LINE_MAX_BYTES 8192
/* Larger files are refused: no lexicon that fits a 64 KiB image needs them. */
/* Files in all, and files used by files. */
#define FILES_MAX  64
#define USE_MAX    8
#define FAULTS_MAX 1000 /* behind so many nobody reads on */

static void read_lexicon(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_place place = g_array_index(st->tokens, struct token, 0).place;
    if (lx->name) {
        lex_fault(lx, place, "a second 'lexicon'; the first is in line %u", lx->place.line);
        return;
    }
    lx->place = place;
    if (!(lx->name = statement_name(st, "the lexicon's name"))) return;
    if (!statement_number(st, "the lexicon's version", 0, 65535, &lx->version)) return;
    lx->title = statement_title(st);
}

static void read_letters(struct statement *st)
{
    static const char *const words[] = {"any-case", "exact", NULL};
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st);
    if (token->kind == TOKEN_WORD && !strcmp(token->text, "any-case")) {
        lx->any_case = true;
    } else if (token->kind != TOKEN_WORD || strcmp(token->text, "exact") != 0) {
        char *near = lex_did_you_mean(token->text ? token->text : "", words);
        lex_fault(lx, token->place, "expected 'any-case' or 'exact'%s", near);
        g_free(near);
        return;
    }
    if (statement_take_word(st, "shorten") &&
        !statement_number(st, "the least letters of a shortened word", 1, 31, &lx->shorten))
        return;
    g_free(statement_title(st));
}

static void read_greeting(struct statement *st)
{
    struct token *token = statement_peek(st);
    st->lx->silent = statement_take_word(st, "off");
    if (!st->lx->silent && !statement_take_word(st, "on")) {
        lex_fault(st->lx, token->place, "expected 'on', 'on connect' or 'off'");
        return;
    }
    st->lx->connects = !st->lx->silent && statement_take_word(st, "connect");
    token = statement_peek(st);
    if (token->kind == TOKEN_WORD && !st->lx->silent && !st->lx->connects)
        lex_fault(st->lx, statement_take(st)->place, "expected 'connect', or the end of the line");
    g_free(statement_title(st));
}

/* poll every 5ms */
static void read_poll(struct statement *st)
{
    struct token *token = statement_peek(st);
    if (!statement_take_word(st, "every"))
        lex_fault(st->lx, token->place, "expected 'every', and the longest time between two polls");
    else if (statement_time(st, "the longest time between two polls", 1, 1000, &st->lx->poll))
        g_free(statement_title(st));
}

/* endurance 10000, erases 20 a day */
static bool read_wear(struct statement *st)
{
    struct lexicon *lx = st->lx;
    if (statement_take_word(st, "endurance") &&
        !statement_number(st, "how often a page can be erased", 100, 10000000, &lx->nv_endurance))
        return false;
    if (!statement_take_word(st, "erases")) return true;
    if (!statement_number(st, "how many erases there are in a day", 1, 10000, &lx->nv_erases))
        return false;
    if (statement_take_word(st, "a") && statement_take_word(st, "day")) return true;
    lex_fault(lx, statement_peek(st)->place, "expected like: erases %u a day", lx->nv_erases);
    return false;
}

/* memory 2 pages of 1024 bytes [endurance 10000] [erases 20 a day] */
static void read_memory(struct statement *st)
{
    struct lexicon *lx = st->lx;
    unsigned pages, bytes;
    struct lex_place place = statement_peek(st)->place, size;
    if (lx->nv_pages) {
        lex_fault(lx, place, "a second 'memory'");
        return;
    }
    if (!statement_number(st, "how many pages there are", 2, 1024, &pages)) return;
    if (!statement_take_word(st, "pages") || !statement_take_word(st, "of")) {
        lex_fault(lx, statement_peek(st)->place, "expected like: memory %u pages of 1024 bytes",
                  pages);
        return;
    }
    size = statement_peek(st)->place;
    if (!statement_number(st, "the bytes of a page", 8, RLX_MOST_NV_AREA_BYTES, &bytes)) return;
    unsigned area = pages / 2 * bytes;
    if (!statement_take_word(st, "bytes"))
        lex_fault(lx, statement_peek(st)->place, "expected 'bytes'");
    else if (pages % 2)
        lex_fault(lx, place, "half of the pages are an area: %u or %u of them", pages - 1,
                  pages + 1);
    else if (bytes % 8)
        lex_fault(lx, size, "a page has a multiple of 8 bytes");
    else if (area < RLX_LEAST_NV_AREA_BYTES || area > RLX_MOST_NV_AREA_BYTES)
        lex_fault(lx, place, "half of the pages are %u bytes; an area has %d..%d", area,
                  RLX_LEAST_NV_AREA_BYTES, RLX_MOST_NV_AREA_BYTES);
    else if (read_wear(st)) {
        lx->nv_pages = pages;
        lx->nv_page = bytes;
        lx->nv_place = place;
        g_free(statement_title(st));
    }
}

const struct lex_built_in lex_built_ins[] = {
#define WORD(id, name, spoken, sentence) {name, sentence, RLX_BUILT_IN_##id, spoken},
    RLX_BUILT_INS(WORD)
#undef WORD
        {NULL, NULL, 0, false}};

const struct lex_built_in *lex_said_built_in(const char *word)
{
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++)
        if (b->said && !strcmp(b->word, word)) return b;
    return NULL;
}

/* built-in halt about stats state batch */
static void read_built_in(struct statement *st)
{
    const char *known[G_N_ELEMENTS(lex_built_ins)];
    unsigned index;
    for (unsigned i = 0; i < G_N_ELEMENTS(lex_built_ins); i++) known[i] = lex_built_ins[i].word;
    do {
        if (!statement_one_of(st, "what is built in", known, &index)) return;
        st->lx->built_in |= lex_built_ins[index].bit;
    } while (statement_peek(st)->kind == TOKEN_WORD);
    g_free(statement_title(st));
}

/* accept CODE NAME "reason" */
static void read_accept(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_peek(st);
    int code = token->kind == TOKEN_WORD ? lex_code_named(token->text) : -1;
    if (code < 0 || lex_codes[code].severity == SEVERITY_ERROR) {
        lex_fault(lx, token->place,
                  code < 0 ? "expected the code of a warning, like D05"
                           : "%s is an error, which cannot be accepted",
                  token->text);
        return;
    }
    struct lex_place place = statement_take(st)->place;
    char *subject = statement_name(st, "the name that the warning is about");
    char *reason = subject ? statement_title(st) : NULL;
    if (!subject || !reason || !*reason) {
        if (subject && !reason) lex_fault(lx, place, "expected the reason in quotes at the end");
        g_free(subject);
        g_free(reason);
        return;
    }
    struct lex_accept *accept = g_new0(struct lex_accept, 1);
    *accept = (struct lex_accept){place, (enum lex_code)code, subject, reason, false};
    g_ptr_array_add(lx->accepts, accept);
}

/* number 12 = gate close */
static void read_number(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_WORD || !*token->text || strlen(token->text) > 9 ||
        strspn(token->text, "0123456789") != strlen(token->text)) {
        lex_fault(lx, token->place, "expected a number of 1 to 9 digits");
        return;
    }
    for (unsigned i = 0; i < lx->numbers->len; i++)
        if (!strcmp(((struct lex_number *)lx->numbers->pdata[i])->said, token->text))
            lex_fault(lx, token->place, "%s stands for a command already", token->text);
    struct token *equals = statement_take(st);
    if (equals->kind != TOKEN_EQUALS) {
        lex_fault(lx, equals->place, "expected '=' and the command that %s stands for",
                  token->text);
        return;
    }
    char *text = statement_rest(st);
    if (!*text) lex_fault(lx, equals->place, "expected a command behind '='");
    struct lex_number *number = g_new0(struct lex_number, 1);
    *number = (struct lex_number){token->place, g_strdup(token->text), text};
    g_ptr_array_add(lx->numbers, number);
}

/* pattern NAME T T ... */
static void read_pattern(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_pattern *pattern = g_new0(struct lex_pattern, 1);
    pattern->place = statement_peek(st)->place;
    pattern->times = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    pattern->name = statement_name(st, "the pattern's name");
    if (!pattern->name) pattern->name = g_strdup("");
    if (*pattern->name && lexicon_pattern_index(lx, pattern->name) >= 0)
        lex_fault(lx, pattern->place, "a second pattern '%s'", pattern->name);
    g_ptr_array_add(lx->patterns, pattern);
    if (!*pattern->name) return;
    while (statement_peek(st)->kind == TOKEN_WORD) {
        uint32_t ms = 0;
        if (!statement_time(st, "how long it is on or off", 10, 60000, &ms)) return;
        g_array_append_val(pattern->times, ms);
    }
    if (!pattern->times->len || pattern->times->len % 2 || pattern->times->len > 32)
        lex_fault(lx, pattern->place,
                  "a pattern has 2 to 32 times, on and off in turn, like: 100ms 900ms");
}

static void free_pattern(void *p)
{
    struct lex_pattern *pattern = p;
    g_free(pattern->name);
    g_array_free(pattern->times, TRUE);
    g_free(pattern);
}

static void read_use(struct statement *st);

static const struct lex_statement_kind statements[] = {
    {"lexicon", read_lexicon}, {"letters", read_letters}, {"greeting", read_greeting},
    {"poll", read_poll},       {"memory", read_memory},   {"built-in", read_built_in},
    {"use", read_use},         {"output", read_output},   {"input", read_input},
    {"command", read_command}, {"number", read_number},   {"query", read_query},
    {"event", read_event},     {"setting", read_setting}, {"routine", read_routine},
    {"link", read_link},       {"texts", read_texts},     {"layout", read_layout},
    {"ignore", read_ignore},   {"handset", read_handset}, {"button", read_button},
    {"slider", read_slider},   {"lamp", read_lamp},       {"accept", read_accept},
    {"pattern", read_pattern}, {"key", read_key},         {"contract", read_contract},
    {NULL, NULL},
};

const struct lex_statement_kind *lex_statements(void)
{
    return statements;
}

static const struct lex_statement_kind *kinds_of(const struct lexicon *lx)
{
    return lx->kinds ? lx->kinds : statements;
}

static void unknown_statement(struct lexicon *lx, const struct token *first)
{
    GPtrArray *known = g_ptr_array_new();
    for (const struct lex_statement_kind *k = kinds_of(lx); k->word; k++)
        g_ptr_array_add(known, (void *)k->word);
    g_ptr_array_add(known, NULL);
    const char *const *words = (const char *const *)known->pdata;
    char *near = lex_did_you_mean(first->text, words), *all = g_strjoinv(", ", (char **)words);
    lex_fault(lx, first->place, "expected a statement%s%s%s", *near ? near : ": ", *near ? "" : all,
              "");
    g_free(near);
    g_free(all);
    g_ptr_array_free(known, TRUE);
}

static void read_line(struct lexicon *lx, unsigned file, unsigned line)
{
    struct statement st;
    size_t length = strlen(lex_source_line(lx, file, line));
    if (length > LINE_MAX_BYTES) { /* not shown with the fault */
        lex_find(lx, LEX_F02, (struct lex_place){.file = file},
                 "line %u has %zu bytes; %d is the most", line, length, LINE_MAX_BYTES);
        return;
    }
    if (statement_split(&st, lx, file, line)) {
        struct token *first = statement_take(&st);
        const struct lex_statement_kind *k = kinds_of(lx);
        while (k->word && (first->kind != TOKEN_WORD || strcmp(first->text, k->word) != 0)) k++;
        if (k->word)
            k->read(&st);
        else if (first->kind != TOKEN_END)
            unknown_statement(lx, first);
    }
    statement_clear(&st);
}

static void free_fault(void *p)
{
    struct lex_fault *fault = p;
    g_free(fault->text);
    g_free(fault->advice);
    g_free(fault->subject);
    g_free(fault->reason);
    g_free(fault->witness);
    g_free(fault);
}

static void free_accept(void *p)
{
    struct lex_accept *accept = p;
    g_free(accept->subject);
    g_free(accept->reason);
    g_free(accept);
}

static void free_number(void *p)
{
    struct lex_number *number = p;
    g_free(number->said);
    g_free(number->text);
    g_free(number);
}

static void free_source(void *p)
{
    struct lex_source *source = p;
    g_free(source->file);
    g_strfreev(source->lines);
    g_free(source);
}

/* ---- files ---- */

static struct lex_source *source_of(const struct lexicon *lx, unsigned file)
{
    return lx->sources->pdata[file];
}

const char *lex_source_line(const struct lexicon *lx, unsigned file, unsigned line)
{
    return source_of(lx, file)->lines[line - 1];
}

const char *lex_source_file(const struct lexicon *lx, unsigned file)
{
    return file < lx->sources->len ? source_of(lx, file)->file : lx->file;
}

/* Faults of the whole file, before any statement is looked at. */
static bool check_bytes(struct lexicon *lx, unsigned file, const char *text, size_t size)
{
    static const char mark[] = "\xEF\xBB\xBF";
    const char *bad;
    if (size >= 3 && !memcmp(text, mark, 3)) {
        lex_find(lx, LEX_F02, (struct lex_place){.file = file},
                 "it begins with a byte-order mark (EF BB BF): save it as UTF-8 without one");
        return false;
    }
    if (g_utf8_validate(text, (gssize)size, &bad)) return true;
    struct lex_place place = {file, 1, 0, 1};
    const char *line = text;
    for (const char *p = text; p < bad; p++)
        if (*p == '\n') place.line++, line = p + 1;
    place.column = (unsigned)g_utf8_strlen(line, bad - line);
    char *shown = g_strndup(text, (size_t)(bad - text)); /* the line up to the place */
    struct lex_source *source = source_of(lx, file);
    g_strfreev(source->lines);
    source->lines = g_strsplit_set(*shown ? shown : " ", "\n", -1);
    g_free(shown);
    if (*bad)
        lex_find(lx, LEX_F02, place, "byte 0x%02X is not UTF-8", (unsigned char)*bad);
    else
        lex_find(lx, LEX_F02, place, "a NUL byte: this is not a text file");
    return false;
}

/* Reads one more file, whose text it takes over. */
static void read_file(struct lexicon *lx, const char *name, char *text, size_t size)
{
    struct lex_source *source = g_new0(struct lex_source, 1);
    unsigned file = lx->sources->len;
    source->file = g_strdup(name);
    source->lines = g_new0(char *, 1);
    g_ptr_array_add(lx->sources, source);
    if (size > LEX_FILE_MAX) {
        lex_find(lx, LEX_F02, (struct lex_place){.file = file},
                 "more than %u bytes, which is the most", LEX_FILE_MAX);
    } else if (check_bytes(lx, file, text, size)) {
        g_strfreev(source->lines);
        source->lines = g_strsplit_set(text, "\n", -1);
        for (unsigned i = 0; source->lines[i] && !lx->full; i++) {
            read_line(lx, file, i + 1);
            if (lx->faults->len >= FAULTS_MAX)
                lex_too_many(lx, (struct lex_place){file, i + 1, 0, 1}, FAULTS_MAX, "faults");
        }
    }
    g_free(text);
}

/* use "FILE": as if its lines stood here; its folder is that of the file it stands in. */
static void read_use(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_take(st);
    struct lex_place place = token->place;
    char *text = NULL, *folder, *path;
    size_t size;
    if (token->kind != TOKEN_STRING || !*token->text) {
        lex_fault(lx, place, "expected a file in quotes, like \"parts.lexicon\"");
        return;
    }
    folder = g_path_get_dirname(source_of(lx, place.file)->file);
    path = g_path_is_absolute(token->text) || g_str_equal(folder, ".")
               ? g_strdup(token->text)
               : g_build_filename(folder, token->text, NULL);
    bool before = false;
    for (unsigned i = 0; i < lx->sources->len; i++) before |= !strcmp(source_of(lx, i)->file, path);
    if (before)
        lex_fault(lx, place, "\"%s\" is in use already", token->text);
    else if (lx->using == USE_MAX)
        lex_fault(lx, place, "\"%s\" is used by a file used by a file ...: %d deep is the most",
                  token->text, USE_MAX);
    else if (lx->sources->len > FILES_MAX)
        lex_fault(lx, place, "more than %d files", FILES_MAX);
    else if (!g_file_test(path, G_FILE_TEST_IS_REGULAR) ||
             !files_read(path, LEX_FILE_MAX, &text, &size, NULL))
        lex_fault(lx, place, "cannot read \"%s\"", path);
    g_free(statement_title(st));
    if (text) {
        lx->using ++;
        read_file(lx, path, text, size);
        lx->using --;
    }
    g_free(path);
    g_free(folder);
}

static GPtrArray **list_of(struct lexicon *lx, unsigned index, GDestroyNotify *destroy)
{
    const struct {
        GPtrArray **list;
        GDestroyNotify destroy;
    } lists[] = {{&lx->sources, free_source},        {&lx->faults, free_fault},
                 {&lx->outputs, lex_output_free},    {&lx->inputs, lex_input_free},
                 {&lx->commands, lex_command_free},  {&lx->queries, lex_query_free},
                 {&lx->events, lex_event_free},      {&lx->settings, lex_setting_free},
                 {&lx->routines, lex_routine_free},  {&lx->links, lex_link_free},
                 {&lx->ignores, lex_ignore_free},    {&lx->handsets, lex_handset_free},
                 {&lx->numbers, free_number},        {&lx->accepts, free_accept},
                 {&lx->patterns, free_pattern},      {&lx->reasons, g_free},
                 {&lx->seal_keys, lex_seal_key_free}, {&lx->contracts, lex_contract_free}};
    if (index >= G_N_ELEMENTS(lists)) return NULL;
    *destroy = lists[index].destroy;
    return lists[index].list;
}

struct lexicon *lexicon_read(const char *file, GError **error)
{
    char *text;
    size_t size;
    if (!files_read(file, LEX_FILE_MAX, &text, &size, error)) return NULL;
    return lexicon_read_text(files_shown(file), text, size);
}

static struct lexicon *lexicon_new(const char *file)
{
    GPtrArray **list;
    GDestroyNotify destroy;
    struct lexicon *lx = g_new0(struct lexicon, 1);
    lx->file = g_strdup(file);
    for (unsigned i = 0; (list = list_of(lx, i, &destroy)); i++)
        *list = g_ptr_array_new_with_free_func(destroy);
    return lx;
}

struct lexicon *lex_read_other(const char *file, char *text, size_t size,
                               const struct lex_statement_kind *kinds, void *target)
{
    struct lexicon *lx = lexicon_new(file);
    lx->kinds = kinds;
    lx->target = target;
    read_file(lx, file, text, size);
    lx->enum_names = lex_enum_names(lx);
    return lx;
}

struct lexicon *lexicon_read_text(const char *file, char *text, size_t size)
{
    struct lexicon *lx = lexicon_new(file);
    read_file(lx, file, text, size);
    bool readable = true;
    for (unsigned i = 0; i < lx->faults->len; i++)
        readable &= ((struct lex_fault *)lx->faults->pdata[i])->code != LEX_F02;
    if (readable) {
        if (!lx->name && !lx->faults->len)
            lex_fault(lx, (struct lex_place){0}, "no 'lexicon NAME VERSION' in it");
        finish_by_settings(lx);
        finish_outputs(lx);
        finish_commands(lx);
        finish_events(lx);
        finish_permits(lx);
        finish_guards(lx);
        finish_contracts(lx);
        finish_links(lx);
    }
    lex_commands_read(lx);
    lx->enum_names = lex_enum_names(lx);
    return lx;
}

void lexicon_free(struct lexicon *lx)
{
    GPtrArray **list;
    GDestroyNotify destroy;
    if (!lx) return;
    g_hash_table_destroy(lx->enum_names);
    for (unsigned i = 0; (list = list_of(lx, i, &destroy)); i++) g_ptr_array_free(*list, TRUE);
    for (unsigned k = 0; k < LEX_LETTERS; k++)
        if (lx->by_letter[k]) g_ptr_array_free(lx->by_letter[k], TRUE);
    g_free(lx->file);
    g_free(lx->name);
    g_free(lx->title);
    g_free(lx);
}

/* ---- by name ---- */

struct lex_link *lexicon_link(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        struct lex_link *link = lx->links->pdata[i];
        if (!strcmp(link->name, name)) return link;
    }
    return NULL;
}

int lexicon_pattern_index(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->patterns->len; i++)
        if (!strcmp(((struct lex_pattern *)lx->patterns->pdata[i])->name, name)) return (int)i;
    return -1;
}

int lexicon_routine_index(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->routines->len; i++)
        if (!strcmp(((struct lex_routine *)lx->routines->pdata[i])->name, name)) return (int)i;
    return -1;
}

struct lex_output *lex_effect_output(const struct lexicon *lx, const struct lex_effect *effect)
{
    bool none = effect->kind == LEX_CALL || effect->kind == LEX_RUN || effect->kind == LEX_STORE;
    return none || effect->output >= lx->outputs->len ? NULL : lx->outputs->pdata[effect->output];
}

int lexicon_output_index(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->outputs->len; i++)
        if (!strcmp(((struct lex_output *)lx->outputs->pdata[i])->name, name)) return (int)i;
    return -1;
}

struct lex_output *lexicon_output(const struct lexicon *lx, const char *name)
{
    int i = lexicon_output_index(lx, name);
    return i < 0 ? NULL : lx->outputs->pdata[i];
}

struct lex_input *lexicon_input(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        struct lex_input *input = lx->inputs->pdata[i];
        if (!strcmp(input->name, name)) return input;
    }
    return NULL;
}

struct lex_event *lexicon_event(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->events->len; i++) {
        struct lex_event *event = lx->events->pdata[i];
        if (!strcmp(event->name, name)) return event;
    }
    return NULL;
}

struct lex_setting *lexicon_setting(const struct lexicon *lx, const char *name)
{
    for (unsigned i = 0; i < lx->settings->len; i++) {
        struct lex_setting *setting = lx->settings->pdata[i];
        if (!strcmp(setting->name, name)) return setting;
    }
    return NULL;
}
