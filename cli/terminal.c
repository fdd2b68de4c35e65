/* What is different on a terminal: colours and its width.
 * Texts come without colours; the words that matter get them here, where the stream is a terminal
 * and NO_COLOR is not set.
 * Live conversations are not painted: console.c draws those. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include "rlx_cli.h"

static bool paints(FILE *to)
{
    const char *no = g_getenv("NO_COLOR"), *terminal = g_getenv("TERM");
    return isatty(fileno(to)) && !(no && *no) && g_strcmp0(terminal, "dumb") != 0;
}

void cli_print(FILE *to, const char *text)
{
    static const char *const colours[][2] = {
        {"^(\\S*: (?:accepted )?)(error \\w+:|fault:)", "\\1\033[1;31m\\2\033[m"},
        {"^(\\S*: (?:accepted )?)(warning \\w+:)", "\\1\033[1;33m\\2\033[m"},
        {"^(\\S*: (?:accepted )?)(note \\w+:)", "\\1\033[1;36m\\2\033[m"},
        {"^(\\s+)(\\^+)$", "\\1\033[1;32m\\2\033[m"},
        {"^(FAIL)\\b", "\033[1;31m\\1\033[m"},
        {"^(ok )", "\033[32m\\1\033[m"},
        {"\\b([1-9][0-9]* failed)", "\033[1;31m\\1\033[m"},
    };
    if (!paints(to)) {
        fputs(text, to);
        return;
    }
    char *painted = g_strdup(text);
    for (unsigned i = 0; i < G_N_ELEMENTS(colours); i++) {
        GRegex *regex = g_regex_new(colours[i][0], G_REGEX_MULTILINE, 0, NULL);
        char *more = g_regex_replace(regex, painted, -1, 0, colours[i][1], 0, NULL);
        g_regex_unref(regex);
        if (more) g_free(painted), painted = more;
    }
    fputs(painted, to);
    g_free(painted);
}

void cli_printf(FILE *to, const char *format, ...)
{
    va_list values;
    va_start(values, format);
    char *text = g_strdup_vprintf(format, values);
    va_end(values);
    cli_print(to, text);
    g_free(text);
}

unsigned cli_columns(void)
{
    enum { LEAST = 40, NORMAL = 80, MOST = 160 };
    struct winsize size = {0};
    const char *told = g_getenv("COLUMNS");
    if (!isatty(STDOUT_FILENO)) return NORMAL;
    long columns = told ? strtol(told, NULL, 10) : 0;
    if (columns <= 0 && !ioctl(STDOUT_FILENO, TIOCGWINSZ, &size)) columns = size.ws_col;
    return columns <= 0 ? NORMAL : (unsigned)CLAMP(columns, LEAST, MOST);
}
