/* Golden conversations as data. A file holds conversations:
 *     conversation TITLE
 *     lexicon FILE            (beside the conversation file, or ../..)
 *     link NUMBER             (0 when left out)
 *     > text                  said, with a CR behind it on line links
 *     >> text                 said as it is; \r \n \xNN in both
 *     ~ 30                    30 ms go by
 *     ! call pressed          the firmware tells an event, or a note: rig_do()
 *     ? 12 1                  what the next query is told
 *     < text                  a line that comes back; the end of other frames is not told
 *     = pin 4 high            what the board does; = pwm 1 26214
 * and # comments. */
#ifndef SCRIPT_H
#define SCRIPT_H

#include <glib.h>
#include <stdbool.h>

struct script_line {
    char kind; /* '>', '~', '<', '=', '!', '?' */
    GString *text;
};

struct script {
    char *title, *lexicon;
    unsigned link;
    GArray *lines; /* struct script_line */
};

/* The conversations of a file; ends the program where it cannot be read. */
GPtrArray *script_read(const char *file);

/* What the lines of one kind say, one after the other. */
GString *script_expected(const struct script *script, char kind);

#endif
