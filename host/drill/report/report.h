/* Writers of a report; each reads the JSON object that drill() made. */
#ifndef REPORT_H
#define REPORT_H

#include <glib.h>
#include <jansson.h>
#include <stdbool.h>

/* For a terminal; `around`: so many failures with their conversations. Owned by the caller. */
char *report_text(const json_t *report, unsigned around);
/* One page with all that it needs in it. Owned by the caller. */
char *report_html(const json_t *report);
/* RFC 4180. Owned by the caller. */
char *report_csv(const json_t *report);
/* JUnit XML: a suite for each link, a case for each command and fault; `seconds`: how long all of
 * it took. */
bool report_junit(const json_t *report, double seconds, const char *file, GError **error);
/* What is other than in an earlier report, put into `report` as "against". False: the file has
 * none of this lexicon. */
bool report_against(json_t *report, const char *file, GError **error);
/* Each failure that has a scene, as a file in that folder, with its world; `again` in the report
 * becomes the command that plays it. */
bool report_scenes(json_t *report, const char *folder, const char *lexicon, GError **error);

/* ---- what the writers share ---- */

const char *report_string(const json_t *object, const char *name);
/* The same, and "" where there is none. */
const char *report_text_of(const json_t *object, const char *name);
unsigned report_count(const json_t *object, const char *name);
double report_real(const json_t *object, const char *name);
/* The names that are the same in both are one cell: a fault is NULL where there is none. */
const json_t *report_cell(const json_t *report, const char *command, const char *link);
/* The commands and queries, or the other parts of the drill, on links as they should be: const char
 * *, in their order. */
GPtrArray *report_rows(const json_t *report, bool parts);

/* Each fault of each link, with all of its strengths. */
struct report_fault {
    const char *link, *fault;
    struct report_rung {
        const char *strength;
        unsigned cases, passed, lost, wrong;
    } rungs[6];
    unsigned n;
};
/* struct report_fault */
GArray *report_faults(const json_t *report);
/* "12 ms", "8.4 s" */
char *report_ms(double ms);
/* Parts of a kind of coverage, and how many of them never came. */
void report_covered(const json_t *report, const char *kind, unsigned *all, unsigned *never);
/* The kinds and what they are called, NULL-ended. */
extern const char *const report_kinds[][2];

#endif
