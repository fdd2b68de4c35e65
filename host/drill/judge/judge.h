/* Checks the result of a step of a conversation against the guarantees. */
#ifndef JUDGE_H
#define JUDGE_H

#include "drill/judge/session.h"

struct drill_call {
    unsigned handler;
    rlx_value values[15];
};

/* What was seen and heard of one move. */
struct outcome {
    const struct setup *setup;
    const struct board *board;
    const struct lex_link *link;
    const struct move *move;
    GPtrArray *answers;      /* char *, without envelopes */
    unsigned bad;            /* answers whose envelope was wrong */
    unsigned *moved;         /* of each output how often its state changed */
    char **before;           /* of each output its state */
    uint64_t pushed_us[256]; /* of each pin when its level last changed by hand */
    GArray *calls;           /* struct drill_call; of the lexicon's tables only */
    GPtrArray *said; /* struct drill_case *: all that may still be obeyed or answered, as what was
                      * said before is held up */
    bool tables;
    bool blind; /* a real board: its pins are not seen, nor its inputs */
};

/* What the device owes to the move: nothing where the link's own text for it is empty. */
enum owed judge_owed(const struct outcome *outcome);
/* The verdict: NULL, or what was expected; *came, both owned by the caller. *wrong: something was
 * done that was not commanded. */
char *judge(const struct outcome *outcome, char **came, bool *wrong);
/* Whether the output can change by itself, or by a command long before. */
bool judge_moves_by_itself(const struct setup *setup, unsigned output);
/* Whether a step of the routine acts on it. */
enum told { TOLD_NOTHING, TOLD_PERHAPS, TOLD };
enum told judge_told_by(const struct lexicon *lx, const struct lex_routine *routine,
                        unsigned output);
/* Whether the command may change this output. */
bool judge_may_change(const struct outcome *outcome, unsigned output);
bool judge_is_ok(const struct lexicon *lx, const struct lex_link *link, const char *answer);
bool judge_is_err(const struct lex_link *link, const char *answer);

#endif
