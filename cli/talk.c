/* Talks to a simulated board at a terminal, or by lines from a pipe.
 * Reads the world and the lexicon, and hands standard input to the conversation.
 * What is printed is decided in host/world/talk. */
#include "endpoint/board_line.h"
#include "endpoint/console.h"
#include "world/talk/talk.h"

#include <unistd.h>

#include "rlx_cli.h"

/* What is read and written beside the conversation; each may be NULL. */
struct files {
    const char *world;
    const struct cli_traced *traced;
    double speed; /* of a live conversation */
    int board;    /* where a real board's bytes come in; -1: it is simulated */
};

static bool failed(GError *error)
{
    fflush(stdout);
    fprintf(stderr, "%s: %s\n", g_get_prgname(), error->message);
    g_error_free(error);
    return false;
}

/* False after a message. */
static bool converse(struct lexicon *lx, const struct image *image, struct talk_options *options,
                     struct files files)
{
    GError *error = NULL;
    struct world_file *world = NULL;
    if (files.world && !cli_world(files.world, lx, &world)) return false;
    options->bench.world = world;
    struct cli_trace *trace = cli_trace_begin(lx, files.traced, &error);
    options->trace = cli_trace_of(trace);
    bool talked = !error && (options->prompt
                                 ? console_run(lx, image, options, files.speed, files.board, &error)
                                 : talk(lx, image, options, stdin, stdout, &error));
    talked = cli_trace_end(trace, error ? NULL : &error) && talked;
    world_file_free(world);
    return talked || failed(error);
}

/* What only a simulated board has; NULL: nothing of it was given. */
static const char *simulated(const struct talk_options *options, const char *world, double speed)
{
    return options->bench.firmware ? "--firmware"
           : world                 ? "--world"
           : options->bench.loads  ? "--loads"
           : options->wire         ? "--wire"
           : options->from         ? "--from"
           : speed != 1            ? "--speed"
                                   : NULL;
}

static const char description[] =
    "At a terminal the board is live: Tab completes a line, \"! help\" lists the lines for the "
    "tool,\nCtrl-D ends. Otherwise time stands still between the lines, and goes on as "
    "far as they need.\n\n"
    "Sends each line of the input as somebody would type it, with what ends a frame "
    "on that link;\nprints virtual time in seconds, what was sent (>), what came "
    "back (<) and what the outputs did\n(=). A line \"~ 2s\" lets so much time go "
    "by; \"! upper on\" moves an input's pin, \"! up LINK\"\nand \"! down LINK\" a state "
    "pin, \"! press BUTTON\", \"! release BUTTON\" and \"! slide SLIDER 40\"\na handset;\n"
    "\"! from +15550143\" lets somebody else write text messages;\n"
    "\"! over NAME\" speaks over another link or as another controller, \"! connect LINK "
    "NAME\" and\n\"! leave LINK\" are for wireless bridges; with --loads \"! jam gate\", "
    "\"! weld pump\",\n\"! dead lamp\", \"! stick upper\", \"! cut "
    "upper\" and \"! mend NAME\" break things and mend them.\n\n"
    "Example:\n  echo 'pump off' | rlx talk examples/tide_tank/tidetank.lexicon\n";

int verb_talk(int argc, char **argv)
{
    struct talk_options options = {0};
    g_autofree char *link = NULL, *firmware = NULL, *world = NULL, *from = NULL;
    static struct cli_traced traced; /* until the program ends */
    gboolean plain = FALSE, raw = FALSE, loads = FALSE, wire = FALSE;
    gint64 start_ms = 0, seed = 1;
    double speed = 1;
    static struct cli_board board; /* until the program ends */
    struct board_line *line = NULL;
    const GOptionEntry entries[] = {
        {"link", 'l', 0, G_OPTION_ARG_STRING, &link, "talk over this link", "NAME"},
        {"firmware", 'f', 0, G_OPTION_ARG_FILENAME, &firmware,
         "talk to this program, made for the simulated port", "PROGRAM"},
        CLI_BOARD_OPTIONS(board),
        {"plain", 0, 0, G_OPTION_ARG_NONE, &plain, "print only what the device sent", NULL},
        {"raw", 0, 0, G_OPTION_ARG_NONE, &raw, "send the input byte for byte", NULL},
        {"world", 'w', 0, G_OPTION_ARG_FILENAME, &world,
         "what the links go through: noise, loss, another baud rate", "FILE"},
        CLI_TRACE_OPTIONS(traced),
        {"loads", 'L', 0, G_OPTION_ARG_NONE, &loads,
         "what hangs on the pins moves: gates reach their switches, relays bounce", NULL},
        {"from", 0, 0, G_OPTION_ARG_STRING, &from, "who writes the text messages", "+NUMBER"},
        {"wire", 0, 0, G_OPTION_ARG_NONE, &wire,
         "print what goes between the device and its modem for text messages", NULL},
        {"seed", 's', 0, G_OPTION_ARG_INT64, &seed, "of what is random about the loads", "N"},
        {"speed", 0, 0, G_OPTION_ARG_DOUBLE, &speed,
         "at a terminal: seconds of the board's time in each second (default: 1)", "N"},
        {"start-ms", 0, 0, G_OPTION_ARG_INT64, &start_ms,
         "begin with the device's clock at N ms (it wraps at 2^32)", "N"},
        {0}};
    struct image *image;
    int code;
    if (!cli_options(&argc, &argv, entries, "LEXICON", description, 1)) return 2;
    if (start_ms < 0 || start_ms > UINT32_MAX) {
        fprintf(stderr, "%s: --start-ms takes 0..%u ms\n", g_get_prgname(), UINT32_MAX);
        return 2;
    }
    if (!cli_paced(speed, seed)) return 2;
    const char *const inputs[] = {argv[1], world, firmware};
    if (!cli_is_file("LEXICON", argv[1], CLI_TYPES) || !cli_is_file("--world", world, CLI_TYPES) ||
        !cli_trace_asked(&traced, inputs, 3))
        return 2;
    bool mistyped = false;
    options.mistyped = &mistyped;
    options.bench.loads = loads;
    options.wire = wire;
    options.bytes = traced.bytes;
    options.from = from;
    options.bench.seed = (uint32_t)seed;
    options.link = link;
    options.bench.firmware = firmware;
    options.bench.start_ms = (uint32_t)start_ms;
    options.plain = plain;
    options.raw = raw;
    options.prompt = isatty(STDIN_FILENO) && isatty(STDOUT_FILENO) && !raw && !plain;
    struct lexicon *lx = cli_runnable_lexicon(argv[1], &image, &code);
    if (!lx) return code;
    const bool opened =
        !board.where || (cli_board_alone(&board, simulated(&options, world, speed)) &&
                         cli_board_open(&board, lx, link, &line, &options.bench.outside_link));
    if (line) {
        const struct lex_link *of = lx->links->pdata[options.bench.outside_link];
        options.bench.outside = board_line_outside(line);
        options.where = board_line_where(line);
        options.fingerprint = image->fingerprint;
        options.link = of->name;
    }
    const struct files files = {world, &traced, speed, line ? board_line_fd(line) : -1};
    code = !opened || !converse(lx, image, &options, files) ? 2 : mistyped ? 1 : code;
    board_line_free(line);
    image_free(image);
    lexicon_free(lx);
    return code;
}
