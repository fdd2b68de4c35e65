/* Names the cause of failures, as far as what came tells it.
 * Each rule looks at one failure: the texts that should have come and came, when, how often again.
 * A failure that no rule knows has no name. */
#include <glib.h>
#include <stdbool.h>
#include <string.h>

#include "drill/report/cause.h"
#include "drill/report/report.h"

/* ---- two texts ---- */

static bool is_cut(const char *whole, const char *text)
{
    return *text && strlen(text) < strlen(whole) && g_str_has_prefix(whole, text);
}

/* Whether it is the other with characters left out. */
static bool has_gaps(const char *whole, const char *text)
{
    size_t n = strlen(text);
    if (!n || n >= strlen(whole)) return false;
    for (; *whole && *text; whole++) text += *whole == *text;
    return !*text;
}

/* Without " already", and whether it was there. */
static char *plain(const char *text, bool *already)
{
    *already = g_str_has_suffix(text, " already");
    return g_strndup(text, strlen(text) - (*already ? strlen(" already") : 0));
}

/* Whether they differ in what an output was at before: by " already" alone, or in the state that is
 * told where its name was asked. */
static bool is_other_state(const json_t *f)
{
    const char *should = report_string(f, "should"), *is = report_string(f, "is");
    const char *text = report_string(f, "text");
    if (!should || !is) return false;
    bool was, now;
    char *a = plain(should, &was), *b = plain(is, &now);
    bool other = was != now && !strcmp(a, b);
    g_free(a);
    g_free(b);
    if (!text || !g_str_has_suffix(text, "?")) return other;
    char *told = g_strdup_printf("ok %.*s ", (int)strlen(text) - 1, text);
    other |= g_str_has_prefix(should, told) && g_str_has_prefix(is, told) && strcmp(should, is);
    g_free(told);
    return other;
}

/* Behind "err unknown " what the board has heard, up to " at"; owned by the caller. */
static char *heard_word(const char *answer)
{
    static const char told[] = "err unknown ";
    const char *at = strstr(answer, told);
    if (!at) return NULL;
    at += strlen(told);
    const char *end = strstr(at, " at ");
    return g_strndup(at, end ? (gsize)(end - at) : strlen(at));
}

/* ---- the rules ---- */

static char *is_anew(const json_t *f)
{
    if (!json_is_true(json_object_get(f, "anew"))) return NULL;
    return g_strdup("the board starts anew by itself: a watchdog, a fault, or its supply");
}

static char *is_late(const json_t *f)
{
    const char *handler = report_string(f, "handler");
    bool its = json_is_true(json_object_get(f, "its"));
    if (report_real(f, "late_ms") <= 0) return NULL;
    if (handler && its)
        return g_strdup_printf("%s() keeps the board from answering: it waits, or takes long",
                               handler);
    return g_strdup("the board answers late: its main loop is held up");
}

static char *is_short(const json_t *f)
{
    const char *should = report_string(f, "should"), *is = report_string(f, "is");
    const char *text = report_string(f, "text");
    /* values, and what stats tells, may be shorter than others */
    bool asked = text && (strchr(text, '?') || g_str_has_prefix(text, "stats"));
    if (!should || !is || !is_cut(should, is) || is_other_state(f) || asked) return NULL;
    return g_strdup_printf("answers end behind %zu bytes: the way out loses the rest", strlen(is));
}

static char *is_switched(const json_t *f)
{
    const char *is = report_string(f, "is"), *handler = report_string(f, "handler");
    if (!is_other_state(f)) return NULL;
    if (!handler)
        return g_strdup_printf("an output is not as it was commanded: asked it says \"%s\"", is);
    return g_strdup_printf(
        "an output is not as it was commanded: behind \"%s\" it says \"%s\"; look at "
        "what %s() switches",
        report_string(f, "behind"), is, handler);
}

static const char now_and_then[] = "not always: said again, the same is answered as it must be; "
                                   "bytes are lost or damaged now and then";

static char *is_lossy(const json_t *f)
{
    const char *should = report_string(f, "should"), *is = report_string(f, "is");
    const char *text = report_string(f, "text");
    char *word = heard_word(is ? is : report_string(f, "came"));
    char *said = text ? g_strndup(text, strcspn(text, "\r\n")) : NULL;
    char *first = text ? g_strndup(text, strcspn(text, " \r\n")) : NULL;
    const char *cause = NULL;
    if (word && said && has_gaps(said, word))
        cause = "bytes are lost on the way to the board: it hears less than was said";
    else if (word && first && has_gaps(word, first))
        cause = "bytes come twice on the way to the board: it hears more than was said";
    else if (should && is && has_gaps(should, is) && !is_cut(should, is))
        cause = "bytes are lost on the way from the board: its answers have gaps";
    else if (report_count(f, "repeats_passed"))
        cause = now_and_then;
    g_free(word);
    g_free(said);
    g_free(first);
    return g_strdup(cause);
}

typedef char *(*rule)(const json_t *f);
/* Of a real board, whose outputs are not seen, and in the simulation. */
static const rule of_boards[] = {is_anew, is_late, is_short, is_switched, is_lossy, NULL},
                  of_programs[] = {is_late, is_short, is_lossy, NULL};

/* ---- the whole ---- */

static json_t *named(json_t *all, const char *cause)
{
    for (size_t i = 0; i < json_array_size(all); i++)
        if (!strcmp(report_string(json_array_get(all, i), "cause"), cause))
            return json_array_get(all, i);
    json_t *one = json_pack("{s:s, s:i}", "cause", cause, "failures", 0);
    json_array_append_new(all, one);
    return one;
}

static void points_at(json_t *f, json_t *cause)
{
    json_object_set_new(cause, "failures", json_integer(report_count(cause, "failures") + 1));
    json_object_set_new(f, "cause", json_string(report_string(cause, "cause")));
}

/* A cause that another failure has shown and that fits this one, too: it was cut at the same place,
 * or bytes are lost in one way or the other. */
static json_t *shown_already(const json_t *all, const json_t *f)
{
    const char *came = report_string(f, "came");
    char *cut = g_strdup_printf("answers end behind %zu bytes", strlen(came));
    bool lossy = !report_string(f, "cause") && report_count(f, "repeats_passed");
    json_t *found = NULL;
    for (size_t i = 0; i < json_array_size(all) && !found; i++) {
        json_t *one = json_array_get(all, i);
        const char *cause = report_string(one, "cause");
        if (g_str_has_prefix(cause, cut) || (lossy && g_str_has_prefix(cause, "bytes are lost")))
            found = one;
    }
    g_free(cut);
    return found;
}

static int by_failures(const void *a, const void *b)
{
    unsigned x = report_count(*(json_t *const *)a, "failures"),
             y = report_count(*(json_t *const *)b, "failures");
    return x < y ? 1 : x > y ? -1 : 0;
}

static json_t *sorted(json_t *all)
{
    GPtrArray *order = g_ptr_array_new();
    json_t *causes = json_array();
    for (size_t i = 0; i < json_array_size(all); i++)
        g_ptr_array_add(order, json_array_get(all, i));
    g_ptr_array_sort(order, by_failures);
    for (unsigned i = 0; i < order->len; i++) json_array_append(causes, order->pdata[i]);
    g_ptr_array_free(order, TRUE);
    json_decref(all);
    return causes;
}

static void points_by_name(void *user, json_t *f, const char *cause)
{
    points_at(f, named(user, cause));
}

json_t *causes_named(json_t *failures, bool board)
{
    json_t *all = json_array();
    causes_of_contracts(failures, points_by_name, all);
    if (!board) causes_of_many(failures, points_by_name, all);
    for (size_t i = 0; i < json_array_size(failures); i++) {
        json_t *f = json_array_get(failures, i);
        char *cause = NULL;
        if (report_string(f, "cause")) continue;
        for (const rule *its = board ? of_boards : of_programs; *its && !cause; its++)
            cause = (*its)(f);
        if (cause && strcmp(cause, now_and_then) != 0) points_at(f, named(all, cause));
        g_free(cause);
    }
    for (size_t i = 0; i < json_array_size(failures); i++) {
        json_t *f = json_array_get(failures, i), *shown;
        if (report_string(f, "cause")) continue;
        if ((shown = shown_already(all, f)))
            points_at(f, shown);
        else if (report_count(f, "repeats_passed"))
            points_at(f, named(all, now_and_then));
    }
    return sorted(all);
}
