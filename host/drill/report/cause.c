/* Puts failures together that have the same cause, as far as one can see.
 * Two are alike where they are about one output, or expected and got the same but for numbers and
 * quoted text.
 * It does not know why something fails. */
#include "drill/report/cause.h"
#include "drill/report/report.h"

#include <glib.h>
#include <stdbool.h>
#include <string.h>

/* Without numbers, times and what stands in quotes. */
static void put_alike(GString *to, const char *text)
{
    bool quoted = false;
    for (; *text; text++) {
        if (*text == '"') quoted = !quoted;
        if (quoted) continue;
        bool digit = g_ascii_isdigit(*text);
        if (!digit)
            g_string_append_c(to, *text);
        else if (!to->len || to->str[to->len - 1] != '#')
            g_string_append_c(to, '#');
    }
    g_string_append_c(to, '\n');
}

/* What is the same in all that have its cause. Owned by the caller. */
static char *cause_of(const json_t *f)
{
    GString *cause = g_string_new(report_text_of(f, "kind"));
    const char *output = report_text_of(f, "output"), *came = report_text_of(f, "came");
    if (g_str_has_suffix(came, " changed")) output = came;
    size_t n = strcspn(came, " ");
    if (n && came[n] && !strncmp(came, report_text_of(f, "expected"), n + 1)) output = came;
    g_string_append_c(cause, '\n');
    if (*output) {
        g_string_append_len(cause, output, (gssize)strcspn(output, " "));
    } else {
        put_alike(cause, report_text_of(f, "expected"));
        put_alike(cause, report_text_of(f, "came"));
    }
    return g_string_free(cause, FALSE);
}

void causes_sort(json_t *failures)
{
    GHashTable *groups = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    GPtrArray *order = g_ptr_array_new(); /* json_t *: an array for each cause */
    for (size_t i = 0; i < json_array_size(failures); i++) {
        char *cause = cause_of(json_array_get(failures, i));
        json_t *group = g_hash_table_lookup(groups, cause);
        if (!group) {
            group = json_array();
            g_ptr_array_add(order, group);
            g_hash_table_insert(groups, g_strdup(cause), group);
        }
        json_array_append(group, json_array_get(failures, i));
        g_free(cause);
    }
    json_array_clear(failures);
    for (unsigned i = 0; i < order->len; i++) {
        json_t *group = order->pdata[i];
        for (size_t k = 0; k < json_array_size(group); k++) {
            json_t *f = json_array_get(group, k);
            json_object_set_new(f, "alike", json_integer((json_int_t)json_array_size(group)));
            json_object_set_new(f, "nth", json_integer((json_int_t)k + 1));
            json_array_append(failures, f);
        }
        json_decref(group);
    }
    g_ptr_array_free(order, TRUE);
    g_hash_table_destroy(groups);
}

bool cause_is_death(const json_t *failure)
{
    return !strcmp(report_text_of(failure, "kind"), "died");
}
