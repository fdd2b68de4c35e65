/* What the files of the suite "life" share: scenes that follow from the lexicon about time, power
 * and events. life.c has power and what expires, kinds.c what one kind of output does, events.c
 * events, settings and routines, spoken.c envelopes, batches and text messages. */
#ifndef LIFE_H
#define LIFE_H

#include "drill/suites/suite.h"

struct life {
    const struct drill *drill;
    const struct drill_job *job;
    struct yield *yield;
    GString *text;  /* of the scene that is being written */
    unsigned link;  /* that it is about; default: the job's */
    bool unsayable; /* it says something that no frame of its link can be: it is not played */
};

void life_put(struct life *life, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* Whether the link hears of the event. */
bool life_is_told(const struct lex_event *event, const struct lex_link *link);
/* The scene ends: it is played. */
void life_play(struct life *life, const char *row, const char *format, ...) G_GNUC_PRINTF(3, 4);
/* Who speaks over the link in a scene. Owned by the caller. */
char *life_speaker(const struct life *life, unsigned link);
void life_say(struct life *life, unsigned link, const char *text);
void life_hear(struct life *life, unsigned link, const char *pattern);
/* Says it and hears ok. */
void life_obeyed(struct life *life, unsigned link, const char *text);
/* The link that is spoken over where any will do: one that answers in words; -1: there is none. */
int life_link(const struct drill *drill);
/* Whether scenes can speak over it and hear all of its answers. */
bool life_is_spoken(const struct drill *drill, unsigned link);
/* A text of the command that the link accepts; NULL: none. */
const char *life_text(const struct drill *drill, unsigned link, const struct lex_command *command,
                      enum case_why why);
/* A text that puts the command's output to its most, and the state that it has then; NULL: none is
 * known. */
const char *life_full_text(const struct life *life, unsigned link,
                           const struct lex_command *command, char **state);
/* One plain text over the link that changes no setting; NULL: there is none. */
const char *life_any(const struct drill *drill, unsigned link);
/* Something that shows how often it was obeyed, and its output, which nothing else moves;
 * `at_once`: and which has no minimum times. NULL: there is nothing. */
const char *life_toggle(const struct drill *drill, unsigned link, bool at_once,
                        const struct lex_output **out);
/* Whether the device may refuse the text: a setting narrows a range in it, or it waits for
 * something. */
bool life_may_refuse(const struct lexicon *lx, const char *text);
/* That no output changes for these milliseconds, if the command does not go on by itself. */
void life_put_still(struct life *life, const char *said, unsigned ms);
/* That all outputs are at their safe states; of those that a pin shows. */
void life_put_safe(struct life *life, const char *within);
/* The same of what the firmware drives by itself, which is safe for a moment at least. */
void life_put_own_safe(struct life *life, const char *within);
/* So many milliseconds less what a firmware's clock may be fast. */
unsigned life_before(const struct life *life, uint32_t ms, uint32_t less);

/* The inputs permit all that the output does; false: they cannot. */
bool life_permit(struct life *life, const struct lex_output *out);

/* kinds.c: what only an output of this kind does; what inputs permit it; and a command of a motor
 * or pair. */
void life_permits(struct life *life, unsigned link, const struct lex_output *out);
void life_output(struct life *life, unsigned link, const struct lex_output *out);
void life_turning(struct life *life, unsigned link, const struct lex_command *command);
/* events.c */
void told_events(struct life *life);
void told_inputs(struct life *life);
void told_settings(struct life *life);
void told_routines(struct life *life);
void told_handsets(struct life *life);
/* spoken.c */
void spoken_batches(struct life *life);
void spoken_yields(struct life *life);
void spoken_tags(struct life *life);
void spoken_envelopes(struct life *life, unsigned link, unsigned seed);
void spoken_messages(struct life *life);
/* attacks.c */
void spoken_attacks(struct life *life);
/* sessions.c; and all that a command waits for is brought about: false where that cannot be. */
void spoken_sessions(struct life *life);
bool life_open(struct life *life, unsigned link, const struct lex_command *command);

#endif
