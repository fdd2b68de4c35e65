/* What the files of the reader share: a statement cut into tokens, and faults. */
#ifndef READER_H
#define READER_H

#include "lexicon/model.h"

enum token_kind {
    TOKEN_END,
    TOKEN_WORD,
    TOKEN_STRING,
    TOKEN_SLOT,
    TOKEN_EQUALS,
    TOKEN_ARROW,
    TOKEN_FROM
};

struct token {
    enum token_kind kind;
    struct lex_place place;
    char *text; /* without quotes or braces */
};

/* One line of the file. */
struct statement {
    struct lexicon *lx;
    GArray *tokens; /* struct token, the last one TOKEN_END */
    unsigned next;
};

/* A statement by its first word; ended by a NULL word. */
struct lex_statement_kind {
    const char *word;
    void (*read)(struct statement *st);
};

/* Those of a lexicon. */
const struct lex_statement_kind *lex_statements(void);

/* Most bytes of a lexicon, world or scene file; files_read() takes no more. */
#define LEX_FILE_MAX (4u * 1024 * 1024)

/* read.c: reads a text in another language of this form, which the kinds put into `target`. Takes
 * the text over. What is returned has the faults. */
struct lexicon *lex_read_other(const char *file, char *text, size_t size,
                               const struct lex_statement_kind *kinds, void *target);

/* tokens.c */
bool statement_split(struct statement *st, struct lexicon *lx, unsigned file, unsigned line);
const char *lex_source_line(const struct lexicon *lx, unsigned file, unsigned line);
void statement_clear(struct statement *st);
struct token *statement_peek(struct statement *st);
struct token *statement_take(struct statement *st);
bool statement_take_word(struct statement *st, const char *word);
/* A whole number low..high with this unit ("" for none; in front of '|' more of them). */
bool statement_number(struct statement *st, const char *what, unsigned low, unsigned high,
                      unsigned *value);
/* A name: a C identifier. */
char *statement_name(struct statement *st, const char *what);
/* What is left of the statement, a blank between its tokens; a text in quotes that is all of it,
 * without them. Owned by the caller. */
char *statement_rest(struct statement *st);
/* An optional title, and nothing behind it. */
char *statement_title(struct statement *st);

/* terms.c: false after a fault. */
bool statement_time(struct statement *st, const char *what, uint32_t low, uint32_t high,
                    uint32_t *ms);
bool statement_hertz(struct statement *st, uint32_t *hz);
/* 8N1, 7E1, 8O2 */
bool statement_format(struct statement *st, struct lex_format *format);
bool statement_pin(struct statement *st, unsigned *pin);
/* One of the NULL-ended words. */
bool statement_one_of(struct statement *st, const char *what, const char *const *words,
                      unsigned *index);
/* A word, and what reads what stands behind it; kinds: bits of those that may have it, 0 for all.
 */
#define ATTRIBUTE_UNLISTED \
    UINT32_MAX /* for all, and no message names it: its reader gives the reason */
struct attribute {
    const char *word;
    bool (*read)(struct statement *st, void *target);
    unsigned kinds;
};
/* Whether something of this sort may have the attribute: one of `known`, of whatever kind. */
typedef bool (*attribute_elsewhere)(const struct attribute *known, const char *word);
bool statement_any_kind(const struct attribute *known, const char *word);
/* Attributes in any order, up to a title or the end. */
bool statement_attributes(struct statement *st, const struct attribute *known, unsigned kind,
                          attribute_elsewhere elsewhere, const char *what, void *target);

/* faults.c */
/* There are more than so many of them: the rest of the file is not read. */
void lex_too_many(struct lexicon *lx, struct lex_place place, unsigned most, const char *what);
void lex_fault(struct lexicon *lx, struct lex_place place, const char *format, ...)
    G_GNUC_PRINTF(3, 4); /* of code F01 */
struct lex_fault *lex_find(struct lexicon *lx, enum lex_code code, struct lex_place place,
                           const char *format, ...) G_GNUC_PRINTF(4, 5);
/* The one of the NULL-ended words that was probably meant, or NULL. */
const char *lex_nearest(const char *word, const char *const *words);
/* "; did you mean 'X'?" or "". Owned by the caller. */
char *lex_did_you_mean(const char *word, const char *const *words);
char *lex_did_you_mean_output(const struct lexicon *lx, const char *word);

/* Statements, one file each. */
void read_output(struct statement *st);
void read_input(struct statement *st);
void read_command(struct statement *st);
void read_event(struct statement *st);
void read_query(struct statement *st);
void read_contract(struct statement *st);
void read_setting(struct statement *st);
void read_key(struct statement *st);
void read_routine(struct statement *st);
void read_link(struct statement *st);
void read_texts(struct statement *st);
void read_layout(struct statement *st);
void read_handset(struct statement *st);
void read_button(struct statement *st);
void read_slider(struct statement *st);
void read_lamp(struct statement *st);
void read_ignore(struct statement *st);
/* After the last line: the checks that need all of it. */
void finish_outputs(struct lexicon *lx);
/* by_setting.c: the settings that times and ranges name. */
void finish_by_settings(struct lexicon *lx);
void finish_commands(struct lexicon *lx);
void finish_events(struct lexicon *lx);
void finish_permits(struct lexicon *lx);
void finish_links(struct lexicon *lx);
/* read_seal.c: `seal` of a link; its keys, when everything is read. */
bool lex_read_seal(struct statement *st, struct lex_link *link);
/* only while OUTPUT|INPUT WORD and ..., behind 'only'; code SETTING, behind 'code'. In
 * read_guard.c. */
bool lex_read_guards(struct statement *st, struct lex_command *command);
bool lex_read_code(struct statement *st, struct lex_command *command);
void finish_guards(struct lexicon *lx);
/* read_contract.c: functions, slots and commands that contracts name. */
void finish_contracts(struct lexicon *lx);
void lex_contract_free(void *contract);
void finish_seals(struct lexicon *lx);
/* Works out the locks that cannot be changed over the link, in locks.c. */
void finish_locks(struct lexicon *lx, struct lex_link *link);
void lex_seal_key_free(void *key);
/* A setting that is empty when nobody has changed it, with what it can be. */
void lex_add_setting(struct lexicon *lx, struct lex_place place, const char *name,
                     const char *slot);
/* A link's keys and codes, and its own texts: read, and checked when everything is read. */
bool lex_read_key(struct statement *st, struct lex_link *link);
void lex_finish_keys(struct lexicon *lx, struct lex_link *link);
void lex_finish_texts(struct lexicon *lx, struct lex_link *link);
/* read_field.c: a field, which is added to the list; `row`: of a command or event. False after a
 * fault. */
bool lex_read_field(struct statement *st, GPtrArray *fields, bool row);
/* Of channels: those of a frame, one in a row, and what is known when everything is read. */
bool lex_read_channels(struct statement *st, struct lex_field *field);
bool lex_read_channel(struct statement *st, struct lex_field *field);
void lex_finish_channels(struct lexicon *lx, struct lex_link *link);
void lex_field_free(void *field);
void lex_finish_layout(struct lexicon *lx, struct lex_link *link);
/* A link of raw bytes has a layout without rows: no text goes over it. */
void lex_make_raw(struct lex_link *link);
void lex_layout_free(struct lex_layout *layout);
void lex_output_free(void *output);
void lex_input_free(void *input);
void lex_event_free(void *event);
void lex_query_free(void *query);
void lex_setting_free(void *setting);
void lex_routine_free(void *routine);
void lex_link_free(void *link);
void lex_key_free(void *key);
void lex_text_free(void *text);
void lex_button_free(void *button);
void lex_slider_free(void *slider);
void lex_lamp_free(void *lamp);
void lex_handset_free(void *handset);
void lex_ignore_free(void *ignore);
bool lex_is_event_attribute(struct statement *st);
/* The faults of a text in quotes that stands in the tables as it is. */
void lex_only_ascii(struct lexicon *lx, const struct token *text);
/* "feed {0..100 step 10}": its texts, or NULL after a fault. Owned by the caller. */
GPtrArray *lex_step_texts(struct lexicon *lx, struct lex_place place, const char *text);

/* read_slot.c: words and slots of commands. */
bool lex_word_ok(const char *word, const char **why);
/* The word as the device keeps it: in small letters where letters are any-case. */
char *lex_spelt(const struct lexicon *lx, const char *word);
/* The products of a range and what it is scaled to fit 32 bits on the chip. */
void lex_check_scale(struct lexicon *lx, const struct lex_element *e, int64_t reach);
/* A value of an output's own range, or the name of one. */
bool lex_range_said(const struct lex_output *output, const char *text, int32_t *value);
bool lex_is_digits(const char *word);
void lex_read_words(struct lexicon *lx, struct lex_element *e, char *body);
/* 0 ms, 1 s, 2 min, 3 h; -1: none of them. */
int lex_time_unit(const char *text, size_t length);
void lex_read_unit(struct lexicon *lx, struct lex_element *e, const char *unit);
struct lex_element *lex_read_slot(struct lexicon *lx, struct token *token);
/* LOW..HIGH of one form, up to *end. False: it is none. */
bool lex_read_bounds(struct lex_element *e, const char *p, const char **end, int64_t *low,
                     int64_t *high);
/* LOW..HIGH, a unit, as LOW..HIGH; the text is changed. */
void lex_read_range(struct lexicon *lx, struct lex_element *e, char *body);

/* read_output.c: while INPUT WORD [and INPUT WORD], of these ways to go; `what` stands there: "an
 * input". */
bool statement_permits(struct statement *st, GPtrArray *permits, unsigned ways, const char *what);
void lex_permit_free(void *permit);
/* Finds its input, unless it has an output, and what its word means; false: with a fault. */
bool lex_find_permit(struct lexicon *lx, struct lex_permit *permit, const char *what);
/* read_effect.c */
bool read_effect(struct statement *st, struct lex_command *command);
/* by_setting.c: a time of least..most ms, or the name of a setting that has it. */
#define LEX_EXPIRES       "the time after which it goes to its safe state"
#define LEX_RAMP_MOST     60000 /* ms, of ramps, fades and slew times */
#define LEX_DEBOUNCE_MOST 1000
bool statement_time_by(struct statement *st, const char *what, uint32_t least, uint32_t most,
                       uint32_t *ms, char **by);
/* The state of an output, which the words of a command do not name: on, 40%, blink 500ms. */
bool read_state(struct statement *st, struct lex_command *command, unsigned output);
/* expires T, newest */
bool read_command_attributes(struct statement *st, struct lex_command *command);
bool lex_is_command_attribute(struct statement *st);
/* The name of a C function, from FUNCTION(). Owned by the caller. */
char *lex_read_function(struct lexicon *lx, const struct token *token);
/* The verb of an output with this word, or NULL. */
const struct lex_verb *lex_verb_of(const struct lex_output *out, const char *word);
/* All its verbs, or only those without a value: "off, on, toggle". Owned by the
 * caller. */
char *lex_verbs_of(const struct lex_output *out, bool plain);

/* command.c */
void lex_element_free(void *element);
void lex_command_free(void *command);
/* Its handler answers with these from now on, which it owns, but of a query. */
void lex_command_tells(struct lex_command *command, GPtrArray *told);
/* Slots that a query or command (`who`) answers with. Owned by the caller. */
GPtrArray *lex_read_told(struct statement *st, const char *who);
/* Adds the command whose words are the effect itself (`lamp toggle`), unless finish_commands()
 * finds another one with this text. Returns its text. */
char *lex_effect_command(struct lexicon *lx, const struct lex_command *effect);
/* Whether this text is one of the command's. */
/* Whether the element takes this text, and its value: a number not scaled, a word's index, a set's
 * bits.
 */
bool lex_element_says(const struct lexicon *lx, const struct lex_element *element, const char *word,
                      int32_t *value);
bool lex_command_says(const struct lexicon *lx, const struct lex_command *command,
                      const char *text);
/* refuses REASON|REASON: of a command or query that calls a function. False after a fault. */
bool lex_read_refuses(struct statement *st, struct lex_command *command);
/* All commands are there: from now on lex_command_taking() finds them by their first letter. */
void lex_commands_read(struct lexicon *lx);

/* read_output.c */
/* Whether an output of its kind may have the attribute with this word. */
bool lex_kind_may_have(const struct lex_output *out, const char *attribute);
/* value.c */
/* Whether the number takes this text as its value. */
bool lex_number_takes(const struct lex_element *number, const char *text);
/* Whether the number takes the text but for its range: ranges do not distinguish commands. */
bool lex_number_shaped(const struct lex_element *number, const char *text);

#endif
