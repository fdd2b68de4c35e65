/* The options of the verbs that take a real board, and the line to it.
 * Asks a person where a person has to reset it.
 * What is said to the board is the verbs' business. */
#include "endpoint/board_line.h"

#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "rlx_cli.h"

/* A person presses a button, and says so. */
static bool ask_reset(void)
{
    int c;
    if (!isatty(STDIN_FILENO)) return false;
    fputs("Reset the board now, then press Enter. ", stderr);
    do c = getchar();
    while (c != EOF && c != '\n');
    return c == '\n';
}

static bool reads_reset(const char *how, struct board_line_options *options)
{
    static const struct {
        const char *how;
        enum board_line_reset is;
    } all[] = {{"dtr", BOARD_DTR}, {"rts", BOARD_RTS}, {"ask", BOARD_ASK}};
    if (!how) return true;
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (!strcmp(how, all[i].how)) options->reset = all[i].is;
    if (g_str_has_prefix(how, "run ") && how[4]) {
        options->reset = BOARD_COMMAND;
        options->command = how + 4;
    }
    if (options->reset == BOARD_NO_RESET)
        fprintf(stderr, "%s: --reset takes dtr, rts, ask or \"run COMMAND\", not '%s'\n",
                g_get_prgname(), how);
    else if (options->reset == BOARD_ASK && !isatty(STDIN_FILENO))
        fprintf(stderr, "%s: --reset ask needs a person at a terminal\n", g_get_prgname());
    else
        return true;
    return false;
}

/* The first serial link, where none is named. NULL after a message. */
static const struct lex_link *link_of(const struct lexicon *lx, const char *name, unsigned *number)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        bool serial = link->baud && link->medium != LEX_SMS;
        if (name ? strcmp(link->name, name) != 0 : !serial) continue;
        *number = i;
        if (serial) return link;
        fprintf(stderr, "%s: --board: %s is no serial link\n", g_get_prgname(), link->name);
        return NULL;
    }
    if (name)
        fprintf(stderr, "%s: there is no link '%s'\n", g_get_prgname(), name);
    else
        fprintf(stderr, "%s: --board needs a serial link, and %s has none\n", g_get_prgname(),
                lx->name);
    return NULL;
}

bool cli_board_alone(const struct cli_board *board, const char *other)
{
    if (!board->where || !other) return true;
    fprintf(stderr, "%s: --board %s is a real one: %s is for what is simulated\n", g_get_prgname(),
            board->where, other);
    return false;
}

bool cli_board_open(const struct cli_board *board, const struct lexicon *lx, const char *link,
                    struct board_line **line, unsigned *number)
{
    struct board_line_options options = {.anywhere = board->anywhere, .ask = ask_reset};
    GError *error = NULL;
    if (!reads_reset(board->reset, &options)) return false;
    const struct lex_link *of = link_of(lx, link, number);
    if (!of) return false;
    *line = board_line_open(board->where, of, &options, &error);
    if (*line) return true;
    fprintf(stderr, "%s: --board %s\n", g_get_prgname(), error->message);
    g_error_free(error);
    return false;
}
