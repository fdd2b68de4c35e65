/* The suite of a drill: each makes conversations from the lexicon, one job at a time, and yields
 * what became of them. */
#ifndef SERIES_H
#define SERIES_H

#include <jansson.h>

#include "drill/suites/drill.h"
#include "drill/judge/session.h"

/* What all jobs share, read-only. */
struct drill {
    struct lexicon *lx;
    const struct image *image;
    const struct drill_options *options;
    GPtrArray *rows;   /* char * */
    GPtrArray *cases;  /* struct drill_case * */
    GPtrArray *jobs;   /* struct drill_job * */
    char *world;       /* with whom speaks on the radios; of a real board "" */
    struct real *real; /* what is known of a real board; NULL: it is simulated */
};

struct drill_job;
struct real;

/* What one job yields. */
struct yield;
typedef void (*drill_work)(const struct drill *drill, const struct drill_job *job,
                           struct yield *yield);

struct drill_job {
    char *title; /* "words over bench" */
    const char *suite;
    unsigned link, part;
    drill_work work;
};

/* A conversation that is drilled. */
struct conversation {
    const struct drill_job *job;
    const char *row;              /* of the report, for what is no try; NULL: the job's title */
    const char *fault, *strength; /* NULL: the links are as they should be */
    GArray *moves;
    const char *world;              /* NULL: somebody speaks on the radios */
    uint64_t patience_us, after_us; /* as in struct setup */
    uint32_t seed;
};

void yield_conversation(struct yield *yield, const struct drill *drill,
                        const struct conversation *conversation);
/* A scene of its own; `link`, `row`: of the report. `text` has the statements behind its title. */
void yield_scene(struct yield *yield, const struct drill *drill, const struct drill_job *job,
                 unsigned link, const char *row, const char *title, const char *text);
/* So often something of the design was exercised: "bound|glow|level|high". */
void yield_cover(struct yield *yield, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* Adds the jobs of a suite for a link that is drilled. */
void words_jobs(struct drill *drill, unsigned link);
void ends_jobs(struct drill *drill, unsigned link);
void layouts_jobs(struct drill *drill, unsigned link);
void faults_jobs(struct drill *drill, unsigned link);
/* Of the suite of faults: the statement of the nth at its kth strength over this link, like "cable
 * bench loss 5%"; "": not on this medium; NULL: there is no such strength, or for k 0 no such
 * fault. FAULTS_OVER: the one that ends it. Owned by the caller. */
#define FAULTS_OVER UINT_MAX
char *faults_statement(unsigned n, unsigned k, const struct lex_link *link);
/* Those of the whole device. */
void life_jobs(struct drill *drill);
void contracts_jobs(struct drill *drill);
void mixed_jobs(struct drill *drill);

void drill_job_add(struct drill *drill, const char *suite, unsigned link, unsigned part,
                   drill_work work, const char *format, ...) G_GNUC_PRINTF(6, 7);

static inline const struct lex_link *drill_link(const struct drill *drill, unsigned link)
{
    return drill->lx->links->pdata[link];
}
/* Why the link is not drilled; NULL: it is. */
const char *drill_why_not(const struct drill *drill, unsigned link);
/* What is owed for a test case over the link. */
enum owed drill_owed(const struct drill *drill, unsigned link, const struct drill_case *test);
/* Puts every output into a state that is not safe; so many moves. */
unsigned drill_busy(const struct drill *drill, GArray *moves, unsigned link);
/* The setting that it stores; NULL: none. */
const struct lex_setting *drill_stored(const struct lexicon *lx, const struct drill_case *test);
/* Asks what the link counted, where it may be asked. */
void drill_ask_counts(const struct drill *drill, GArray *moves, unsigned link);
/* Asks what all links counted and how all that has a name is, over the links that answer in full...
 */
void drill_ask_all(const struct drill *drill, GArray *moves);
/* ...as statements of a scene. */
void drill_put_asked(const struct drill *drill, GString *scene);
/* Says it, where it fits the link and would not lock the driller out; NULL: it does not. */
struct move *drill_say(const struct drill *drill, GArray *moves, unsigned link,
                       const struct drill_case *test);

/* Whether somebody else's code is drilled: a program, or a real board. */
static inline bool drill_is_own(const struct drill *drill)
{
    return drill->options->firmware || drill->options->board;
}
/* Who drives the output: commands alone where the lexicon's own tables are drilled. */
static inline enum lex_by drill_by(const struct drill *drill, const struct lex_output *out)
{
    return drill_is_own(drill) ? out->by : LEX_BY_COMMANDS;
}

#endif
