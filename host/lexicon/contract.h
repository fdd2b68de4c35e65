/* What the handlers of a lexicon must do, by its contracts. */
#ifndef CONTRACT_H
#define CONTRACT_H

#include "lexicon/model.h"

/* From the answer on, where the lexicon does not say within which time. */
#define LEX_WITHIN_MS 20u

/* The contract of this function; NULL: there is none. */
const struct lex_contract *lex_contract_of(const struct lexicon *lx, const char *handler);
/* The slot of this name; *place: of its first value among those that the handler gets. NULL: the
 * command has none. */
const struct lex_element *lex_contract_slot(const struct lex_command *command, const char *name,
                                            unsigned *place);

/* The values below are those that the handler of the command gets, of a choice the word's index. */

/* Whether the promise is one for these values. */
bool lex_promise_holds(const struct lex_promise *promise, const struct lex_command *command,
                       const int32_t *values);
/* The state that the output has then, as scenes write it; NULL: the promise names none. Owned by
 * the caller. */
char *lex_promise_state(const struct lexicon *lx, const struct lex_promise *promise,
                        const struct lex_command *command, const int32_t *values);
/* Milliseconds that it lasts; 0: until something else is said. */
uint32_t lex_promise_lasts(const struct lex_promise *promise, const struct lex_command *command,
                           const int32_t *values);

/* "makes heater on within 1s for {time}"; owned by the caller. */
char *lex_promise_text(const struct lexicon *lx, const struct lex_promise *promise);
/* All that the contract says, a clause each: char *. Owned by the caller. */
GPtrArray *lex_contract_clauses(const struct lexicon *lx, const struct lex_contract *contract);
/* The same with commas. Owned by the caller. */
char *lex_contract_text(const struct lexicon *lx, const struct lex_contract *contract);

#endif
