/* C sources put together into one: includes are put in, conditions that are known are decided, and
 * what is not compiled is left out. What depends on the compiler stays as it is. */
#ifndef FOLD_H
#define FOLD_H

#include <glib.h>
#include <stdbool.h>

struct fold;

/* The text of a file by its path, "rlx/port.h", "src/core/ring.c", or NULL: it is none of ours. */
typedef const char *(*fold_source)(void *user, const char *path);

struct fold *fold_new(fold_source source, void *user);
void fold_free(struct fold *fold);
/* As by #define. */
void fold_define(struct fold *fold, const char *name, const char *value);
/* Puts the file into `out`; one that was put in before and guards itself adds nothing. */
void fold_file(struct fold *fold, const char *path, GString *out);

#endif
