/* Holds what old senders say against the new lexicon: each command's test texts, its shortened
 * forms, and the texts that another command of the new one takes, too.
 * Both devices read each text.
 * How it is sent is in links.c. */
#include "compare/compare_parts.h"

#include <string.h>

#include "drill/cases/cases.h"
#include "lexicon/check/check.h"
#include "lexicon/read/reader.h"

struct texts {
    struct comparison *c;
    struct parser *old, *now;
    GHashTable *known;  /* texts that were compared */
    GHashTable *paired; /* "old pattern|new pattern": the commands were compared */
};

/* What it is about: its command or query, as the old lexicon writes it. */
static char *subject_of(const struct lex_command *of, const struct reading *was, const char *text)
{
    if (!of) of = was->command;
    return of ? lex_command_text(of) : g_strdup(was->word ? was->word : text);
}

/* ---- two commands that mean the same ---- */

/* Whether both have their own answers on the same of the old links. */
static bool same_links(const struct texts *t, const struct lex_command *a,
                       const struct lex_command *b)
{
    bool same = true;
    for (unsigned i = 0; same && i + 1 < t->old->lx->links->len; i++) {
        const char *name = ((struct lex_link *)t->old->lx->links->pdata[i])->name;
        same = !lexicon_link(t->now->lx, name) ||
               g_ptr_array_find_with_equal_func(a->says_on, name, g_str_equal, NULL) ==
                   g_ptr_array_find_with_equal_func(b->says_on, name, g_str_equal, NULL);
    }
    return same;
}

/* "expires after 2 s", or "" where it stays. */
static char *lasting(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_output *out =
        command->effect.kind == LEX_CALL ? NULL : lex_effect_output(lx, &command->effect);
    uint32_t expires = command->expires ? command->expires : out ? out->expires : 0;
    GString *text = g_string_new(NULL);
    const char *by = command->expires ? command->expires_by : out ? out->expires_by : NULL;
    if (by)
        g_string_append_printf(text, "expires after the time of setting %s", by);
    else if (expires)
        g_string_append_printf(text, "expires after %u ms", expires);
    if (command->effect.lasts_by)
        g_string_append_printf(text, "%sfor the time of setting %s", text->len ? ", " : "",
                               command->effect.lasts_by);
    else if (command->effect.lasts)
        g_string_append_printf(text, "%sfor %u ms", text->len ? ", " : "", command->effect.lasts);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->from)
            g_string_append_printf(text, "%sfrom setting %s", text->len ? ", " : "", e->from);
        if (e->upto)
            g_string_append_printf(text, "%sup to setting %s", text->len ? ", " : "", e->upto);
    }
    char *guards = lex_guards_text(command);
    g_string_append_printf(text, "%s%s", text->len && *guards ? ", " : "", guards);
    g_free(guards);
    if (command->code)
        g_string_append_printf(text, "%swith the code in setting %s", text->len ? ", " : "",
                               command->code);
    char *permits = out ? lex_permits_text(out) : NULL;
    if (permits) g_string_append_printf(text, "%s%s", text->len ? ", " : "", permits);
    g_free(permits);
    if (!text->len) g_string_append(text, "stays, always permitted");
    return g_string_free(text, FALSE);
}

static void pair(struct texts *t, const char *text, const struct lex_command *a,
                 const struct lex_command *b)
{
    char *key = g_strdup_printf("%p|%p", (const void *)a, (const void *)b);
    if (!g_hash_table_add(t->paired, key)) return;
    char *was = lasting(t->old->lx, a), *is = lasting(t->now->lx, b),
         *subject = lex_command_text(a);
    if (strcmp(was, is) != 0)
        finding_add(t->c, FINDING_EFFECT, subject, text, was, is, a->place.line, b->place.line);
    const char *own = a->says ? a->says : "ok and the command",
               *own_now = b->says ? b->says : "ok and the command";
    if (strcmp(own, own_now) != 0 || g_strcmp0(a->already, b->already) != 0)
        finding_add(t->c, FINDING_ANSWER, subject, text, own, own_now, a->place.line,
                    b->place.line);
    else if (a->says && !same_links(t, a, b))
        finding_add(t->c, FINDING_ANSWER, subject, text, "its own answer on some links",
                    "on other ones", a->place.line, b->place.line);
    g_free(was), g_free(is), g_free(subject);
}

/* ---- a text ---- */

static void try_text(struct texts *t, const char *text, const struct lex_command *of, bool wider)
{
    if (!*text || !g_hash_table_add(t->known, g_strdup(text))) return;
    struct reading was = parser_read(t->old, text);
    if (!was.obeyed && !wider) {
        reading_clear(&was);
        return;
    }
    struct reading is = parser_read(t->now, text);
    char *subject = subject_of(of, &was, text);
    unsigned line = of ? of->place.line : was.command ? was.command->place.line : 0;
    unsigned now = is.command ? is.command->place.line : 0;
    t->c->texts++;
    if (was.obeyed && !is.obeyed)
        finding_add(t->c, FINDING_REFUSED, subject, text, was.means, is.answer, line, now);
    else if (!was.obeyed && is.obeyed)
        finding_add(t->c, FINDING_OBEYED, subject, text, was.answer, is.means, line, now);
    else if (was.obeyed && strcmp(was.means, is.means) != 0)
        finding_add(t->c, FINDING_OTHER, subject, text, was.means, is.means, line, now);
    else if (was.command && strcmp(was.answer, is.answer) != 0)
        finding_add(t->c, FINDING_ANSWER, subject, text, was.answer, is.answer, line, now);
    if (was.command && is.command && !strcmp(was.means, is.means))
        pair(t, text, was.command, is.command);
    g_free(subject);
    reading_clear(&was);
    reading_clear(&is);
}

/* Each word of the text, cut to each length that may be. */
static void try_cut(struct texts *t, const char *text, const struct lex_command *of)
{
    unsigned least = t->old->lx->shorten;
    char **words = g_strsplit(text, " ", -1);
    for (unsigned i = 0; least && words[i]; i++) {
        char *whole = words[i];
        size_t length = strspn(whole, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ_");
        if (whole[length] && whole[length] != '?') continue;
        for (size_t n = least; n < length; n++) {
            words[i] = g_strdup_printf("%.*s%s", (int)n, whole, whole + length);
            char *cut = g_strjoinv(" ", words);
            try_text(t, cut, of, false);
            g_free(cut);
            g_free(words[i]);
        }
        words[i] = whole;
    }
    g_strfreev(words);
}

static void case_free(void *p)
{
    struct drill_case *test = p;
    g_free(test->text);
    g_free(test->says);
    g_free(test);
}

static void try_cases(struct texts *t)
{
    GPtrArray *rows = g_ptr_array_new_with_free_func(g_free),
              *cases = drill_cases(t->old->lx, rows);
    for (unsigned i = 0; i < cases->len; i++) {
        const struct drill_case *test = cases->pdata[i];
        bool wider = test->why == CASE_ABOVE || test->why == CASE_BELOW || test->why == CASE_MORE ||
                     test->why == CASE_LONGER;
        try_text(t, test->text, test->of, wider);
        bool each_word = test->why == CASE_PLAIN || test->why == CASE_CHOICE;
        if (each_word) try_cut(t, test->text, test->of);
    }
    g_ptr_array_set_free_func(cases, case_free);
    g_ptr_array_free(cases, TRUE);
    g_ptr_array_free(rows, TRUE);
}

/* A text that both take, of each command here and each one there. */
static void try_common(struct texts *t)
{
    for (unsigned i = 0; i < t->old->lx->commands->len; i++) {
        const struct lex_command *a = t->old->lx->commands->pdata[i];
        for (unsigned k = 0; k < t->now->lx->commands->len; k++) {
            char *text = lex_common_text(t->old->lx, a, t->now->lx->commands->pdata[k]);
            if (text) try_text(t, text, a, false);
            g_free(text);
        }
    }
}

static void try_numbers(struct texts *t)
{
    for (unsigned i = 0; i < t->old->lx->numbers->len; i++)
        try_text(t, ((struct lex_number *)t->old->lx->numbers->pdata[i])->said, NULL, false);
}

/* Routines: the same word must do the same. */
static void try_routines(struct texts *t)
{
    for (unsigned i = 0; i < t->old->lx->routines->len; i++) {
        const struct lex_routine *was = t->old->lx->routines->pdata[i];
        int at = lexicon_routine_index(t->now->lx, was->name);
        const struct lex_routine *is = at < 0 ? NULL : t->now->lx->routines->pdata[at];
        GString *steps[2] = {g_string_new(NULL), g_string_new(NULL)};
        for (unsigned n = 0; n < 2; n++)
            for (unsigned k = 0; is && k < (n ? is : was)->steps->len; k++) {
                const struct lex_step *step = (n ? is : was)->steps->pdata[k];
                g_string_append_printf(steps[n], "%s", steps[n]->len ? "; " : "");
                if (step->text)
                    g_string_append(steps[n], step->text);
                else
                    g_string_append_printf(steps[n], "wait %u ms", step->wait);
            }
        for (unsigned n = 0; n < 2; n++) {
            const struct lex_routine *of = n ? is : was;
            if (of && of->rounds != 1) g_string_append_printf(steps[n], "; %u times", of->rounds);
        }
        if (is && strcmp(steps[0]->str, steps[1]->str) != 0)
            finding_add(t->c, FINDING_EFFECT, was->name, was->name, steps[0]->str, steps[1]->str,
                        was->place.line, is->place.line);
        g_string_free(steps[0], TRUE), g_string_free(steps[1], TRUE);
    }
}

void compare_texts(struct comparison *c, struct parser *old, struct parser *now)
{
    struct texts t = {c, old, now, g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL),
                      g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL)};
    try_cases(&t);
    try_common(&t);
    try_numbers(&t);
    try_routines(&t);
    g_hash_table_destroy(t.known);
    g_hash_table_destroy(t.paired);
}
