/* A firmware program of the user's: a process on one end of a socket, which may die, hang, flood,
 * close its end or leave others behind. All waiting for it has one deadline. */
#ifndef PROGRAM_H
#define PROGRAM_H

#include <glib.h>
#include <stdbool.h>
#include <stddef.h>

struct program;

/* Starts it, with the file of its non-volatile memory; NULL: it could not, *failure has the reason.
 */
struct program *program_begin(const char *path, int nv, char **failure);
/* It ends by itself when its world is gone, so that what counts at its end does; or it is ended,
 * with all that it started. */
void program_end(struct program *program);

/* From now on it has its time to answer. */
void program_patience(struct program *program);
/* Hands it all of this; false: it is over, or does not read: *failure has the reason. */
bool program_give(struct program *program, const char *bytes, size_t count, char **failure);
/* At least one byte from it; 0: the same. */
size_t program_take(struct program *program, char *bytes, size_t most, char **failure);

#endif
