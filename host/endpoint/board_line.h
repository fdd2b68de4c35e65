/* The line to a real board: a serial device, a pseudo-terminal, a TCP port or a socket in the file
 * system where something else stands for one. */
#ifndef BOARD_LINE_H
#define BOARD_LINE_H

#include "lexicon/model.h"
#include "world/run/outside.h"

struct board_line;

enum board_line_reset { BOARD_NO_RESET, BOARD_DTR, BOARD_RTS, BOARD_ASK, BOARD_COMMAND };

struct board_line_options {
    bool anywhere; /* also a TCP port of another machine */
    enum board_line_reset reset;
    const char *command; /* of BOARD_COMMAND: a shell runs it */
    /* Of BOARD_ASK: a person resets it and says so. False: nobody does. */
    bool (*ask)(void);
};

/* "/dev/ttyUSB0", "tcp:7001", "tcp:HOST:PORT", "unix:PATH"; a path that is a socket is one. The
 * rate and format are the link's. It is this program's alone. NULL and an error where it cannot be.
 */
struct board_line *board_line_open(const char *where, const struct lex_link *link,
                                   const struct board_line_options *options, GError **error);
void board_line_free(struct board_line *line);

const struct outside_line *board_line_outside(struct board_line *line);
/* What can be waited for. */
int board_line_fd(const struct board_line *line);
const char *board_line_where(const struct board_line *line);

#endif
