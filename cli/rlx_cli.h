/* What the verbs share: options, files, and lexicons with their faults printed. */
#ifndef RLX_CLI_H
#define RLX_CLI_H

#include <glib.h>
#include <stdbool.h>

#include "lexicon/write/table_image.h"
#include "verb_list.h"
#include "world/boards/world_file.h"

/* Most faults that are shown. */
#define CLI_FAULTS 20

/* Reads the options; false (after a message) unless `positional` words are left (-1: any number).
 */
bool cli_options(int *argc, char ***argv, const GOptionEntry *entries, const char *parameters,
                 const char *description, int positional);

/* Whether a file may be written: NULL, none is asked for. False after a message where it is "-", or
 * one of the files that are read (each may be NULL, up to a final one that is not). */
bool cli_can_write(const char *option, const char *file, const char *const *inputs, unsigned count);

/* "2.5", "2.5s", "300ms", "2min" in microseconds, up to CLI_TIME_MOST_US; false after a message. */
#define CLI_TIME_MOST_US UINT64_C(100000000000000) /* three years */
bool cli_time(const char *option, const char *text, uint64_t *us);

/* Reads a lexicon and builds its image. *code: 0; 1 with a lexicon that has faults; 2 and NULL,
 * after a message, when the file cannot be read. */
struct lexicon *cli_lexicon(const char *file, struct image **image, int *code);
/* The same, but prints the faults and returns NULL where there are some. */
struct lexicon *cli_sound_lexicon(const char *file, struct image **image, int *code);
/* The same, but refuses what the library does not support yet, with code 2. */
struct lexicon *cli_runnable_lexicon(const char *file, struct image **image, int *code);

/* Whether --speed and --seed can be so; false after a message. */
bool cli_paced(double speed, gint64 seed);
/* Reads a world file; false after its faults were printed. */
bool cli_world(const char *name, struct lexicon *lx, struct world_file **file);
/* ---- a real board ---- */

/* What the verbs that take --board ask of it: entries of a GOptionGroup's kind, for cli_options().
 */
struct cli_board {
    char *where, *reset;
    gboolean anywhere;
};
#define CLI_BOARD_OPTIONS(board)                                      \
    {"board",                                                         \
     'b',                                                             \
     0,                                                               \
     G_OPTION_ARG_STRING,                                             \
     &(board).where,                                                  \
     "a real board: a serial device, tcp:PORT, unix:PATH",            \
     "PATH"},                                                         \
        {"reset",                                                     \
         0,                                                           \
         0,                                                           \
         G_OPTION_ARG_STRING,                                         \
         &(board).reset,                                              \
         "how the board is reset: dtr, rts, ask, or \"run COMMAND\"", \
         "HOW"},                                                      \
    {                                                                 \
        "anywhere", 0, 0, G_OPTION_ARG_NONE, &(board).anywhere,       \
            "also a TCP port of another machine", NULL                \
    }

/* Whether this option (NULL: none) can stand beside it: it is for what is simulated. False after a
 * message. */
bool cli_board_alone(const struct cli_board *board, const char *other);
struct board_line;
/* Opens it for this link and fills in what a bench needs; false after a message. */
bool cli_board_open(const struct cli_board *board, const struct lexicon *lx, const char *link,
                    struct board_line **line, unsigned *number);

#endif
