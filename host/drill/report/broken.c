/* Names the cause of failures of contracts: which function breaks which clause, and how.
 * All failures of one clause are looked at together, as what they have in common tells most.
 * What else fails is in diagnose.c. */
#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <stdlib.h>
#include <string.h>

#include "drill/report/cause.h"
#include "drill/report/report.h"

/* The failures of one clause. */
struct broken {
    char *handler, *clause, *key;
    GPtrArray *failures; /* json_t * */
};

static void broken_free(void *p)
{
    struct broken *b = p;
    g_free(b->handler);
    g_free(b->clause);
    g_free(b->key);
    g_ptr_array_free(b->failures, TRUE);
    g_free(b);
}

/* "warm" of "contract of warm()"; NULL: it is none. Owned by the caller. */
static char *handler_of(const json_t *f)
{
    static const char begin[] = "contract of ";
    const char *text = report_text_of(f, "case");
    if (!g_str_has_prefix(text, begin) || !report_string(f, "title")) return NULL;
    text += strlen(begin);
    return g_strndup(text, strcspn(text, "("));
}

/* "makes heater on for {time}" of a title; owned by the caller. */
static char *clause_of(const json_t *f)
{
    static const char *const words[] = {" makes ", " leaves ", " answers ok", " takes ",
                                        " follows "};
    const char *title = report_text_of(f, "title");
    for (unsigned i = 0; i < G_N_ELEMENTS(words); i++) {
        const char *at = strstr(title, words[i]);
        if (!at) continue;
        return i == 1 ? g_strdup("leaves") : g_strndup(at + 1, strcspn(at, ",") - 1);
    }
    return g_strdup("");
}

/* ---- what one failure shows ---- */

static bool is_refused(const json_t *f)
{
    return g_str_has_prefix(report_text_of(f, "expected"), "\"*ok") &&
           g_str_has_prefix(report_text_of(f, "came"), "err");
}

static bool is_unanswered(const json_t *f)
{
    return *report_text_of(f, "expected") == '"' && !strcmp(report_text_of(f, "came"), "nothing");
}

/* "4.0" of what should be told, "*ok target 4.0". */
static const char *value_of(const json_t *f)
{
    const char *value = report_text_of(f, "expected");
    for (const char *p = value; (p = strchr(p, ' ')); p++)
        if (g_ascii_isdigit(p[1]) || p[1] == '-') return p + 1;
    return value;
}

/* The output of "heater on within 0.02 s"; "" otherwise. Owned by the caller. */
static char *output_of(const json_t *f)
{
    const char *expected = report_text_of(f, "expected");
    return *expected == '"' ? g_strdup("") : g_strndup(expected, strcspn(expected, " "));
}

static const char *wanted_of(const json_t *f)
{
    const char *expected = report_text_of(f, "expected"), *blank = strchr(expected, ' ');
    return blank ? blank + 1 : "";
}

/* Whether it did not stay as it was for its time, or did not end. */
static bool is_too_short(const json_t *f)
{
    return strstr(report_text_of(f, "expected"), " for ") &&
           strstr(report_text_of(f, "came"), " after ");
}

/* ---- what all of them show ---- */

static bool all(const struct broken *b, bool (*is)(const json_t *f))
{
    for (unsigned i = 0; i < b->failures->len; i++)
        if (!is(b->failures->pdata[i])) return false;
    return true;
}

static bool any(const struct broken *b, bool (*is)(const json_t *f))
{
    for (unsigned i = 0; i < b->failures->len; i++)
        if (is(b->failures->pdata[i])) return true;
    return false;
}

static bool is_behind(const json_t *f)
{
    return strstr(report_text_of(f, "title"), " behind ") != NULL;
}

/* Behind the same command, with whatever values. */
static bool is_again(const json_t *f)
{
    const char *title = report_text_of(f, "title"), *before = strstr(title, " behind ");
    return before && !strncmp(before + strlen(" behind "), title, strcspn(title, " "));
}

/* So many times what was said, the same of all; 0: there is no such number. */
static double factor_of(const struct broken *b)
{
    double factor = 0;
    for (unsigned i = 0; i < b->failures->len; i++) {
        const json_t *f = b->failures->pdata[i];
        const char *wanted = wanted_of(f), *came = report_text_of(f, "came");
        if (!strchr(wanted, '%') || !g_str_has_suffix(came, "%")) return 0;
        double should = atof(wanted), is = atof(came);
        if (should == 0 && is == 0) continue;
        if (should == 0 || is == 0 || (factor != 0 && fabs(is - should * factor) > 1)) return 0;
        if (factor == 0) factor = is / should;
    }
    return factor;
}

/* Whether each is as far from 100 % as it should be from 0. */
static bool is_upside_down(const struct broken *b)
{
    for (unsigned i = 0; i < b->failures->len; i++) {
        const json_t *f = b->failures->pdata[i];
        const char *came = report_text_of(f, "came");
        if (!g_str_has_suffix(came, "%") || fabs(100 - atof(wanted_of(f)) - atof(came)) > 1)
            return false;
    }
    return true;
}

static char *level_cause(const struct broken *b, const char *output)
{
    const json_t *f = b->failures->pdata[0];
    const double factor = factor_of(b);
    const size_t n = strcspn(wanted_of(f), " ");
    if (fabs(factor + 1) < 0.01)
        return g_strdup_printf("%s() turns %s the other way", b->handler, output);
    if (factor != 0 && b->failures->len > 1)
        return g_strdup_printf("%s() makes %s %.3g times what was said", b->handler, output,
                               factor);
    if (is_upside_down(b) && b->failures->len > 1)
        return g_strdup_printf("%s() makes %s upside down: %s where %.*s was said", b->handler,
                               output, report_text_of(f, "came"), (int)n, wanted_of(f));
    return g_strdup_printf("%s() makes %s %s where %.*s was said", b->handler, output,
                           report_text_of(f, "came"), (int)n, wanted_of(f));
}

/* Of a clause that makes something. */
static char *made_cause(const struct broken *b)
{
    const json_t *f = b->failures->pdata[0];
    char *output = output_of(f), *cause;
    const size_t n = strcspn(wanted_of(f), " ");
    char *state = g_strdup_printf(" %.*s ", (int)n, wanted_of(f));
    const char *when = all(b, is_again)    ? ", but only when it is said again"
                       : all(b, is_behind) ? ", but only behind another command"
                                           : "";
    bool states = strchr(wanted_of(f), '%') && g_str_has_suffix(report_text_of(f, "came"), "%");
    if (any(b, is_too_short))
        cause = g_strdup_printf("%s() does not keep %s as it is for long enough%s", b->handler,
                                output, when);
    else if (states)
        cause = level_cause(b, output);
    else if (strstr(b->clause, " for ") && !strstr(b->clause, state))
        cause = g_strdup_printf("%s() does not end when the time is over: %s is still %s%s",
                                b->handler, output, report_text_of(f, "came"), when);
    else
        cause = g_strdup_printf("%s() does not make %s %.*s: it is %s%s", b->handler, output,
                                (int)n, wanted_of(f), report_text_of(f, "came"), when);
    g_free(state);
    g_free(output);
    return cause;
}

/* Who refuses or hangs where a query is tried that follows a command: that command, "aim". */
static char *followed_cause(const struct broken *b, const json_t *f)
{
    const char *at = strstr(report_text_of(f, "title"), " follows ");
    const char *said = at ? at + strlen(" follows ") : "";
    return g_strdup_printf(is_refused(f) ? "\"%s\" refuses valid values: %s, before %s() is asked"
                                         : "\"%s\" is not answered: %s came before %s() was asked",
                           said, report_text_of(f, "came"), b->handler);
}

static bool is_follower(const json_t *f)
{
    return strstr(report_text_of(f, "title"), " follows ") != NULL;
}

static char *cause_of(const struct broken *b)
{
    const json_t *f = b->failures->pdata[0];
    const char *came = report_text_of(f, "came"), *expected = report_text_of(f, "expected");
    bool plain = g_str_has_prefix(expected, "\"*ok*\"");
    if (cause_is_death(f))
        return g_strdup_printf("the program does not go on where %s() is tried: %s", b->handler,
                               came);
    if (g_str_has_prefix(b->clause, "takes"))
        return g_strdup_printf("%s() takes longer than its contract says", b->handler);
    if (is_follower(f) && plain) return followed_cause(b, f);
    if (is_unanswered(f))
        return g_strdup_printf("nothing is answered behind %s(): it does not return", b->handler);
    if (is_refused(f) && is_follower(f))
        return g_strdup_printf("%s() tells no value that fits: %s", b->handler, came);
    if (is_refused(f))
        return g_strdup_printf(g_str_has_prefix(b->clause, "answers")
                                   ? "%s() refuses after some times: %s"
                                   : "%s() refuses a valid command: %s",
                               b->handler, came);
    if (is_follower(f)) {
        const char *value = strrchr(came, ' ');
        return g_strdup_printf("%s() does not tell what was set last: %s where %.*s was set",
                               b->handler, value ? value + 1 : came,
                               (int)strcspn(value_of(f), " \""), value_of(f));
    }
    if (!strcmp(b->clause, "leaves"))
        return g_strdup_printf("%s() changes what it should leave: %s", b->handler, came);
    return made_cause(b);
}

/* ---- two clauses ---- */

/* Whether one function leaves the output where the other should bring it, and the other way
 * round. */
static bool are_exchanged(const struct broken *a, const struct broken *b)
{
    const json_t *f = a->failures->pdata[0], *g = b->failures->pdata[0];
    char *one = output_of(f), *other = output_of(g);
    bool same = *one && !strcmp(one, other) && strcmp(a->handler, b->handler) != 0;
    const char *wanted = wanted_of(f), *its = wanted_of(g);
    same = same && g_str_has_prefix(wanted, report_text_of(g, "came")) &&
           g_str_has_prefix(its, report_text_of(f, "came")) && *report_text_of(f, "came") &&
           *report_text_of(g, "came") && strncmp(wanted, its, strcspn(wanted, " ")) != 0;
    g_free(one);
    g_free(other);
    return same;
}

static struct broken *exchanged_with(const GPtrArray *groups, const struct broken *b)
{
    for (unsigned i = 0; i < groups->len; i++)
        if (are_exchanged(groups->pdata[i], b)) return groups->pdata[i];
    return NULL;
}

/* ---- all ---- */

static struct broken *group_of(GPtrArray *groups, char *handler, char *clause, const char *output)
{
    char *key = g_strjoin("|", handler, clause, output, NULL);
    for (unsigned i = 0; i < groups->len; i++) {
        struct broken *b = groups->pdata[i];
        if (strcmp(b->key, key) != 0) continue;
        g_free(key);
        g_free(handler);
        g_free(clause);
        return b;
    }
    struct broken *b = g_new0(struct broken, 1);
    *b = (struct broken){handler, clause, key, g_ptr_array_new()};
    g_ptr_array_add(groups, b);
    return b;
}

void causes_of_contracts(json_t *failures, cause_points points, void *user)
{
    GPtrArray *groups = g_ptr_array_new_with_free_func(broken_free);
    for (size_t i = 0; i < json_array_size(failures); i++) {
        json_t *f = json_array_get(failures, i);
        char *handler = handler_of(f);
        if (!handler) continue;
        char *clause = clause_of(f);
        bool refused = is_refused(f) && !g_str_has_prefix(clause, "answers");
        bool hangs = is_unanswered(f) && !g_str_has_prefix(clause, "takes");
        if (refused || hangs || cause_is_death(f)) { /* whatever was tried then */
            g_free(clause);
            clause = g_strdup(refused ? "refuses" : hangs ? "hangs" : "dies");
        }
        char *output = !strcmp(clause, "leaves") ? g_strdup(report_text_of(f, "came"))
                       : cause_is_death(f)       ? g_strdup("")
                                                 : output_of(f);
        g_ptr_array_add(group_of(groups, handler, clause, output)->failures, f);
        g_free(output);
    }
    for (unsigned i = 0; i < groups->len; i++) {
        const struct broken *b = groups->pdata[i], *other = exchanged_with(groups, b);
        char *cause;
        if (other)
            cause = g_strdup_printf(
                "%s() and %s() are exchanged: each does what the other should",
                strcmp(b->handler, other->handler) < 0 ? b->handler : other->handler,
                strcmp(b->handler, other->handler) < 0 ? other->handler : b->handler);
        else
            cause = cause_of(b);
        for (unsigned k = 0; k < b->failures->len; k++) points(user, b->failures->pdata[k], cause);
        g_free(cause);
    }
    g_ptr_array_free(groups, TRUE);
}
