/* JUnit XML, as CI servers read it: of drills see report_junit(). */
#ifndef JUNIT_H
#define JUNIT_H

#include <glib.h>
#include <jansson.h>
#include <stdbool.h>

/* Of scenes: an array of what rlx play --json prints of each; `verb`: "rlx play". */
bool junit_scenes(const json_t *results, const char *verb, const char *file, GError **error);

#endif
