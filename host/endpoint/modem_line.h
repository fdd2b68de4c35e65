/* The serial line of a modem that stands in for a real one, for a board that is not simulated: on
 * an endpoint, or on a serial device that leads to the board. */
#ifndef MODEM_LINE_H
#define MODEM_LINE_H

#include "endpoint/live.h"
#include "endpoint/serve.h"

struct modem_line;

struct modem_line *modem_line_new(void);
void modem_line_free(struct modem_line *line);
/* The board, for the bench: what goes over the endpoint. */
const struct outside_line *modem_line_outside(struct modem_line *line);
/* Opens it at this end of the bench's, as serve_open() does. Owned by the caller; NULL: an error.
 */
char *modem_line_open(struct modem_line *line, struct end *end, enum serve_at at, const char *where,
                      bool anywhere, GError **error);
void modem_line_live(struct modem_line *line, struct live *live);

#endif
