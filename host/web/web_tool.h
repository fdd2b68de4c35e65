/* The tool itself as a program beside this one: plays, drills and drawings take their time, and the
 * board goes on meanwhile. */
#ifndef WEB_TOOL_H
#define WEB_TOOL_H

#include <glib.h>
#include <stdbool.h>

struct tool;

/* `arguments` ends with NULL; the program is this one. `line` (NULL: nobody listens) hears each
 * line of its output, without its end; `over` its exit code, -1: it was killed or did not begin,
 * and what it printed to its standard error. It is gone after that. */
struct tool *tool_run(const char *const *arguments, void (*line)(void *user, const char *text),
                      void (*over)(void *user, int code, const char *wrong), void *user);
/* Ends it: `over` is called with -1 when it is. */
void tool_stop(struct tool *tool);
/* Ends it, and nobody is called any more. NULL is fine. */
void tool_drop(struct tool *tool);

#endif
