/* Names causes that show in many failures together: a clock, a wire, a channel, a link, an input.
 * Each looks at what has no cause yet, and names only what most of that has in common.
 * What one failure alone shows is in diagnose.c. */
#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <stdlib.h>
#include <string.h>

#include "drill/report/cause.h"
#include "drill/report/report.h"

/* Those without a cause that the function takes. Owned by the caller. */
static GPtrArray *of(json_t *failures, bool (*takes)(const json_t *f))
{
    GPtrArray *all = g_ptr_array_new();
    for (size_t i = 0; i < json_array_size(failures); i++) {
        json_t *f = json_array_get(failures, i);
        if (!report_string(f, "cause") && takes(f)) g_ptr_array_add(all, f);
    }
    return all;
}

struct pointing {
    json_t *failures;
    cause_points points;
    void *user;
};

static void points_all(const struct pointing *p, const GPtrArray *all, char *cause)
{
    for (unsigned i = 0; cause && i < all->len; i++) p->points(p->user, all->pdata[i], cause);
    g_free(cause);
}

/* ---- a program that ends ---- */

static void dead(const struct pointing *p)
{
    GPtrArray *all = of(p->failures, cause_is_death);
    for (unsigned i = 0; i < all->len; i++) {
        char *cause = g_strdup_printf("the program does not go on: %s",
                                      report_text_of(all->pdata[i], "came"));
        p->points(p->user, all->pdata[i], cause);
        g_free(cause);
    }
    g_ptr_array_free(all, TRUE);
}

/* ---- a link ---- */

static bool is_unanswered(const json_t *f)
{
    return (!strcmp(report_text_of(f, "expected"), "an answer") &&
            !strcmp(report_text_of(f, "came"), "none")) ||
           g_str_has_suffix(report_text_of(f, "came"), "never answered ok") ||
           (*report_text_of(f, "expected") == '"' && !strcmp(report_text_of(f, "came"), "nothing"));
}

/* Whether nobody was ever answered over it, which "ok at least once" shows. */
static bool is_silent(const GPtrArray *all, const char *link)
{
    for (unsigned i = 0; i < all->len; i++)
        if (!strcmp(report_text_of(all->pdata[i], "link"), link) &&
            g_str_has_suffix(report_text_of(all->pdata[i], "came"), "never answered ok"))
            return true;
    return false;
}

static void silent(const struct pointing *p)
{
    GPtrArray *all = of(p->failures, is_unanswered);
    for (unsigned i = 0; i < all->len; i++) {
        const char *link = report_text_of(all->pdata[i], "link");
        if (!is_silent(all, link)) continue;
        char *cause = g_strdup_printf("nothing is answered over %s: its bytes do not reach the "
                                      "library, or its answers do not leave",
                                      link);
        p->points(p->user, all->pdata[i], cause);
        g_free(cause);
    }
    g_ptr_array_free(all, TRUE);
}

/* ---- outputs ---- */

static double wire_of(const json_t *f, const char *name)
{
    return json_number_value(json_object_get(json_object_get(f, "wire"), name));
}

static bool has_wire(const json_t *f)
{
    return json_object_get(f, "wire") != NULL;
}

static bool is_any(const json_t *f)
{
    (void)f;
    return true;
}

/* How many of them are as they should be with a clock that is faster by this factor. */
static unsigned explained(const GPtrArray *all, double factor)
{
    unsigned n = 0;
    for (unsigned i = 0; i < all->len; i++) {
        const json_t *clocks = json_object_get(all->pdata[i], "clocks");
        for (size_t k = 0; k < json_array_size(clocks); k++)
            n += json_number_value(json_array_get(clocks, k)) == factor;
    }
    return n;
}

static bool has_clocks(const json_t *f)
{
    return json_object_get(f, "clocks") != NULL;
}

/* Whether several outputs are explained so: of one alone it may be its own time that is wrong. */
static bool is_of_several(const GPtrArray *all, double factor)
{
    const char *first = NULL;
    for (unsigned i = 0; i < all->len; i++) {
        const GPtrArray one = {all->pdata + i, 1};
        const char *output = report_text_of(all->pdata[i], "output");
        if (!explained(&one, factor)) continue;
        if (first && strcmp(first, output) != 0) return true;
        first = output;
    }
    return false;
}

/* All that takes time is wrong then, so that it is the cause of what has no other. */
static void clocks(const struct pointing *p)
{
    GPtrArray *shown = of(p->failures, has_clocks);
    double best = 0;
    for (unsigned i = 0; i < shown->len; i++) {
        const json_t *clocks = json_object_get(shown->pdata[i], "clocks");
        for (size_t k = 0; k < json_array_size(clocks); k++) {
            double factor = json_number_value(json_array_get(clocks, k));
            if (explained(shown, factor) > explained(shown, best)) best = factor;
        }
    }
    if (explained(shown, best) * 2 >= shown->len && is_of_several(shown, best)) {
        GPtrArray *all = of(p->failures, is_any);
        points_all(p, all, g_strdup_printf("the clock runs at %g times its rate", best));
        g_ptr_array_free(all, TRUE);
    }
    g_ptr_array_free(shown, TRUE);
}

/* A pin with the other level, or an output that is on where it should be off. */
static bool is_opposite(const json_t *f)
{
    const char *expected = report_text_of(f, "expected"), *came = report_text_of(f, "came");
    if (has_wire(f))
        return json_is_true(json_object_get(json_object_get(f, "wire"), "pin")) &&
               wire_of(f, "should") != wire_of(f, "is") &&
               g_str_has_suffix(expected, " at 0.000 s");
    return (strstr(expected, " on within") && !strcmp(came, "off")) ||
           (strstr(expected, " off within") && !strcmp(came, "on")) ||
           (g_str_has_suffix(expected, " at 100 %") && g_str_has_suffix(came, " off")) ||
           (g_str_has_suffix(expected, " at 0 %") && g_str_has_suffix(came, " on"));
}

/* It stays as it is. */
static bool is_still(const json_t *f)
{
    return has_wire(f) && !strcmp(report_text_of(f, "came"), "nothing");
}

/* The output that it is about. Owned by the caller. */
static char *output_of(const json_t *f)
{
    const char *output = report_text_of(f, "output"), *expected = report_text_of(f, "expected");
    return *output ? g_strdup(output) : g_strndup(expected, strcspn(expected, " "));
}

/* How many different outputs they are about. */
static unsigned outputs_of(const GPtrArray *all)
{
    GHashTable *names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < all->len; i++) g_hash_table_add(names, output_of(all->pdata[i]));
    unsigned n = g_hash_table_size(names);
    g_hash_table_destroy(names);
    return n;
}

/* On where it should be off. */
static bool is_on(const json_t *f)
{
    return is_opposite(f) && (has_wire(f) ? wire_of(f, "is") > wire_of(f, "should")
                                          : g_str_has_suffix(report_text_of(f, "came"), "on"));
}

/* Whether the output fails in this way. */
static bool fails(const GPtrArray *all, const char *output, bool (*in)(const json_t *f), bool so)
{
    for (unsigned i = 0; i < all->len; i++) {
        char *other = output_of(all->pdata[i]);
        bool its = !strcmp(output, other) && in(all->pdata[i]) == so;
        g_free(other);
        if (its) return true;
    }
    return false;
}

/* Whether a pin was seen to be wrong from power-up on. */
static bool is_seen_at_a_pin(const GPtrArray *all)
{
    for (unsigned i = 0; i < all->len; i++)
        if (has_wire(all->pdata[i])) return true;
    return false;
}

/* The one output beside this. Owned by the caller. */
static char *other_of(const GPtrArray *all, const char *output)
{
    for (unsigned i = 0; i < all->len; i++) {
        char *other = output_of(all->pdata[i]);
        if (strcmp(other, output) != 0) return other;
        g_free(other);
    }
    return g_strdup("");
}

static char *opposite_cause(const GPtrArray *all, const char *output, unsigned outputs)
{
    if (outputs > 2)
        return g_strdup("outputs are on where they should be off: all pins are inverted");
    if (outputs == 1)
        return g_strdup_printf(
            "%s is on where it should be off, and the other way round: its pin is "
            "inverted or another one, or other code drives it",
            output);
    char *other = other_of(all, output);
    bool first = strcmp(output, other) < 0;
    char *cause = g_strdup_printf("%s and %s are exchanged, or the pins of both are inverted",
                                  first ? output : other, first ? other : output);
    g_free(other);
    return cause;
}

/* Those that are wrong in both ways: one that is never driven is wrong in one. */
static void opposite(const struct pointing *p)
{
    GPtrArray *some = of(p->failures, is_opposite), *all = g_ptr_array_new();
    GPtrArray *unmoved = of(p->failures, is_still);
    const bool two = outputs_of(some) == 2 && is_seen_at_a_pin(some);
    for (unsigned i = 0; i < some->len; i++) {
        char *output = output_of(some->pdata[i]);
        bool both = fails(some, output, is_on, true) && fails(some, output, is_on, false);
        if (fails(unmoved, output, is_still, true)) {
            g_free(output);
            continue;
        }
        if (two || both || fails(some, output, has_wire, true))
            g_ptr_array_add(all, some->pdata[i]);
        g_free(output);
    }
    const unsigned outputs = outputs_of(all);
    for (unsigned i = 0; i < all->len; i++) {
        char *output = output_of(all->pdata[i]), *cause = opposite_cause(all, output, outputs);
        p->points(p->user, all->pdata[i], cause);
        g_free(cause);
        g_free(output);
    }
    g_ptr_array_free(unmoved, TRUE);
    g_ptr_array_free(some, TRUE);
    g_ptr_array_free(all, TRUE);
}

static bool is_stuck(const json_t *f)
{
    return is_still(f) || (!has_wire(f) && is_opposite(f));
}

static void still(const struct pointing *p)
{
    GPtrArray *all = of(p->failures, is_stuck);
    for (unsigned i = 0; i < all->len; i++) {
        char *output = output_of(all->pdata[i]);
        if (!fails(all, output, is_still, true)) {
            g_free(output);
            continue;
        }
        char *cause = g_strdup_printf("%s does not follow its commands: nothing drives its pin or "
                                      "channel",
                                      output);
        p->points(p->user, all->pdata[i], cause);
        g_free(cause);
        g_free(output);
    }
    g_ptr_array_free(all, TRUE);
}

/* Another amount on a channel. */
static bool is_other_amount(const json_t *f)
{
    return has_wire(f) && !json_is_true(json_object_get(json_object_get(f, "wire"), "pin")) &&
           wire_of(f, "should") > 0 && wire_of(f, "is") > 0 &&
           wire_of(f, "is") != wire_of(f, "should") &&
           strcmp(report_text_of(f, "came"), "nothing") != 0;
}

/* "10% within 0.001 s" and "0%": the same in scenes. */
static bool is_other_level(const json_t *f)
{
    const char *expected = report_text_of(f, "expected"), *came = report_text_of(f, "came");
    const char *wanted = strchr(expected, ' ');
    return !has_wire(f) && wanted && strstr(expected, " within") && atof(wanted) > 0 &&
           atof(came) > 0 &&
           ((g_str_has_suffix(came, "%") && strchr(wanted, '%')) ||
            (g_str_has_suffix(came, "us") && strstr(wanted, "us")));
}

static bool is_amount(const json_t *f)
{
    return is_other_amount(f) || is_other_level(f);
}

static double share_of(const json_t *f)
{
    if (has_wire(f)) return wire_of(f, "is") / wire_of(f, "should");
    return atof(report_text_of(f, "came")) / atof(strchr(report_text_of(f, "expected"), ' '));
}

/* One output's amounts are the same share of what they should be. */
static void amounts(const struct pointing *p)
{
    GPtrArray *all = of(p->failures, is_amount);
    for (unsigned i = 0; i < all->len; i++) {
        char *output = output_of(all->pdata[i]);
        double share = share_of(all->pdata[i]);
        unsigned like = 0, its = 0;
        for (unsigned k = 0; k < all->len; k++) {
            char *other = output_of(all->pdata[k]);
            bool same = !strcmp(output, other);
            its += same;
            like += same && fabs(share_of(all->pdata[k]) - share) < 0.02 + share / 50;
            g_free(other);
        }
        char *cause =
            like < 3 || like * 2 <= its ? NULL
            : share < 0.005
                ? g_strdup_printf("%s has nearly nothing of its level on its channel", output)
                : g_strdup_printf("%s has %.2g times its level on its channel", output, share);
        if (cause) p->points(p->user, all->pdata[i], cause);
        g_free(cause);
        g_free(output);
    }
    g_ptr_array_free(all, TRUE);
}

/* ---- memory, inputs, resets ---- */

static bool is_forgotten(const json_t *f)
{
    return !strcmp(report_text_of(f, "case"), "kept through a power cut") &&
           *report_text_of(f, "expected") == '"' && strstr(report_text_of(f, "came"), "ok ");
}

static bool is_of_events(const json_t *f)
{
    return !strcmp(report_text_of(f, "case"), "events") &&
           strstr(report_text_of(f, "expected"), "ev ");
}

static bool is_greeting(const json_t *f)
{
    const char *should = report_text_of(f, "should"), *is = report_text_of(f, "is");
    const char *a = strrchr(should, ' '), *b = strrchr(is, ' ');
    return g_str_has_prefix(should, "ready ") && g_str_has_prefix(is, "ready ") && a && b &&
           a - should == b - is && !strncmp(should, is, (size_t)(a - should));
}

static void others(const struct pointing *p)
{
    GPtrArray *all = of(p->failures, is_greeting);
    points_all(p, all,
               all->len ? g_strdup_printf("the cause of a reset is not told: it says \"%s\"",
                                          report_text_of(all->pdata[0], "is"))
                        : NULL);
    g_ptr_array_free(all, TRUE);
    all = of(p->failures, is_forgotten);
    points_all(p, all,
               g_strdup("what is stored does not outlast a power cut: look at the "
                        "non-volatile memory"));
    g_ptr_array_free(all, TRUE);
    all = of(p->failures, is_of_events);
    points_all(p, all,
               g_strdup("what happens at inputs is not told as it is: a pin is not read, "
                        "or with the other level"));
    g_ptr_array_free(all, TRUE);
}

void causes_of_many(json_t *failures, cause_points points, void *user)
{
    const struct pointing p = {failures, points, user};
    dead(&p);
    silent(&p);
    clocks(&p);
    amounts(&p);
    opposite(&p);
    still(&p);
    others(&p);
}
