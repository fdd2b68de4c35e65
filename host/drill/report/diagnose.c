/* Names the cause of failures of a real board, as far as what came tells it.
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
 * told for the same name. */
static bool is_other_state(const char *should, const char *is)
{
    bool was, now;
    char *a = plain(should, &was), *b = plain(is, &now);
    bool other = was != now && !strcmp(a, b);
    g_free(a);
    g_free(b);
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
    if (!should || !is || !is_cut(should, is)) return NULL;
    return g_strdup_printf("answers end behind %zu bytes: the way out loses the rest", strlen(is));
}

static char *is_switched(const json_t *f)
{
    const char *should = report_string(f, "should"), *is = report_string(f, "is");
    const char *handler = report_string(f, "handler");
    if (!should || !is || !handler || !is_other_state(should, is)) return NULL;
    return g_strdup_printf(
        "an output is not as it was commanded: behind \"%s\" it says \"%s\"; look at "
        "what %s() switches",
        report_string(f, "behind"), is, handler);
}

static char *is_lossy(const json_t *f)
{
    const char *should = report_string(f, "should"), *is = report_string(f, "is");
    const char *came = is ? is : report_string(f, "came"), *text = report_string(f, "text");
    bool now_and_then = report_count(f, "again_passed") > 0;
    char *word = heard_word(came);
    char *said = text ? g_strndup(text, strcspn(text, "\r\n")) : NULL;
    bool in = word && said && has_gaps(said, word), out = should && is && has_gaps(should, is);
    char *cause = NULL;
    if (in)
        cause = g_strdup("bytes are lost on the way to the board: it hears less than was said");
    else if (out)
        cause = g_strdup("bytes are lost on the way from the board: its answers have gaps");
    else if (now_and_then)
        cause = g_strdup(
            "not always: said again, the same is answered as it must be; bytes are lost or "
            "damaged now and then");
    g_free(word);
    g_free(said);
    return cause;
}

static char *(*const rules[])(const json_t *f) = {is_anew, is_late, is_short, is_switched,
                                                  is_lossy};

/* ---- the whole ---- */

json_t *causes_named(json_t *failures)
{
    json_t *all = json_array();
    for (size_t i = 0; i < json_array_size(failures); i++) {
        json_t *f = json_array_get(failures, i), *one = NULL;
        char *cause = NULL;
        for (unsigned k = 0; k < G_N_ELEMENTS(rules) && !cause; k++) cause = rules[k](f);
        if (!cause) continue;
        for (size_t k = 0; k < json_array_size(all) && !one; k++)
            if (!strcmp(report_string(json_array_get(all, k), "cause"), cause))
                one = json_array_get(all, k);
        if (!one) {
            one = json_pack("{s:s, s:i}", "cause", cause, "failures", 0);
            json_array_append_new(all, one);
        }
        json_object_set_new(one, "failures", json_integer(report_count(one, "failures") + 1));
        json_object_set_new(f, "cause", json_string(cause));
        g_free(cause);
    }
    return all;
}
