/* What the verbs share: options, files, and lexicons with their faults printed. */
#ifndef RLX_CLI_H
#define RLX_CLI_H

#include <glib.h>
#include <stdbool.h>
#include <stdio.h>

#include "lexicon/write/table_image.h"
#include "options/options.h"
#include "verb_list.h"
#include "world/boards/world_file.h"

/* Most faults that are shown. */
#define CLI_FAULTS 20

/* Whether a file may be written: NULL, none is asked for; "-" is standard output. False after a
 * message where it is one of the files that are read (each may be NULL). */
bool cli_can_write(const char *option, const char *file, const char *const *inputs, unsigned count);

/* Whether it is no "-"; false after a message that has the reason. */
#define CLI_PRINTS "the conversation is printed there"
#define CLI_TYPES  "the lines for the board come from there"
bool cli_is_file(const char *option, const char *file, const char *why);

/* False after a message where the option is given, and what it needs is not. */
bool cli_with(const char *option, bool given, const char *needs, const char *value);

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
/* ---- at a terminal ---- */

/* Prints a text; on a terminal with colours, where NO_COLOR is not set. */
void cli_print(FILE *to, const char *text);
void cli_printf(FILE *to, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* How wide a line may be: the terminal's width, 40..160 columns, or COLUMNS; 80 elsewhere. */
unsigned cli_columns(void);

/* ---- traces ---- */

struct trace;
struct cli_trace;
/* What the verbs that trace ask of it: entries for cli_options(). */
struct cli_traced {
    char *json, *vcd;
    gboolean bytes;
};
#define CLI_TRACE_OPTIONS(traced)                                            \
    {"trace",                                                                \
     't',                                                                    \
     0,                                                                      \
     G_OPTION_ARG_FILENAME,                                                  \
     &(traced).json,                                                         \
     "write all that happens here, as JSON Lines",                           \
     "FILE"},                                                                \
        {"bytes",                                                            \
         0,                                                                  \
         0,                                                                  \
         G_OPTION_ARG_NONE,                                                  \
         &(traced).bytes,                                                    \
         "the trace also has the bytes that reach the board: for rlx learn", \
         NULL},                                                              \
    {                                                                        \
        "vcd", 0, 0, G_OPTION_ARG_FILENAME, &(traced).vcd,                   \
            "write pins and duties here, for a waveform viewer", "FILE"      \
    }
/* Whether they can be written beside the files that are read; false after a message. */
bool cli_trace_asked(const struct cli_traced *traced, const char *const *inputs, unsigned count);
/* Begins a trace (JSON Lines) and a value change dump, each where it is wanted. NULL and an error
 * where one cannot be written. The names are read until its end. */
struct cli_trace *cli_trace_begin(const struct lexicon *lx, const struct cli_traced *traced,
                                  GError **error);
/* For a bench; NULL where there is none. */
struct trace *cli_trace_of(const struct cli_trace *trace);
/* Ends them; NULL is fine. False and an error where something could not be written. */
bool cli_trace_end(struct cli_trace *trace, GError **error);

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
