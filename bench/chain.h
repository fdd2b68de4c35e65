/* if/else chain with the C library. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "hand.h"

static char out[REPLY];

static void tell(void)
{
    for (const char *p = out; *p; p++) put(*p);
}

/* strtok() cuts the line up, so its length is taken before. */
#define BEGIN()                                                                           \
    char *start = line;                                                                   \
    size_t end = strlen(line);                                                            \
    char *word = strtok(line, " "), *arg = strtok(NULL, " "), *extra = strtok(NULL, " "); \
    if (!word) return

static void chain_error(const char *name, const char *what, int at)
{
    snprintf(out, sizeof out, "err %s %s at %d", name, what, at);
    tell();
}

static void chain_done(const char *word, const char *arg, int done)
{
    if (done < 0)
        snprintf(out, sizeof out, done == -13 ? "err busy" : "err failed");
    else
        snprintf(out, sizeof out, "ok %s %s%s", word, arg, done ? " already" : "");
    tell();
}

static void chain_choice(char *start, size_t end, char *word, char *arg, char *extra,
                         const char *const *words, const char *list, handler_fn fn)
{
    char shown[17];
    int i = 0;
    if (!arg) {
        chain_error("missing", list, (int)end);
        return;
    }
    while (i < 3 && strcmp(arg, words[i]) != 0) i++;
    if (i == 3) {
        chain_error("choice", list, (int)(arg - start));
    } else if (extra) {
        snprintf(shown, sizeof shown, "%s", extra);
        chain_error("extra", shown, (int)(extra - start));
    } else {
        chain_done(word, arg, fn((int16_t)i));
    }
}

static void chain_number(char *start, size_t end, char *word, char *arg, char *extra, int low,
                         int high, handler_fn fn)
{
    char range[20], shown[17], *stop;
    snprintf(range, sizeof range, "n %d..%d", low, high);
    if (!arg) {
        chain_error("missing", range, (int)end);
        return;
    }
    char *digits = arg + (*arg == '-');
    size_t n = strspn(digits, "0123456789"), zeros = strspn(digits, "0");
    size_t width = low < -99 || high > 99 ? 3 : high > 9 || low < -9 ? 2 : 1;
    long value = strtol(arg, &stop, 10);
    if (zeros == n && n) zeros--;
    if (!n || *stop || (*arg == '-' && value == 0))
        chain_error("number", range, (int)(arg - start));
    else if (n - zeros > width || value < low || value > high)
        chain_error("range", range, (int)(arg - start));
    else if (n > width)
        chain_error("digits", range, (int)(arg - start));
    else if (extra) {
        snprintf(shown, sizeof shown, "%s", extra);
        chain_error("extra", shown, (int)(extra - start));
    } else {
        snprintf(range, sizeof range, "%ld", value);
        chain_done(word, range, fn((int16_t)value));
    }
}

static const char *const on_words[] = {"off", "on", "toggle"};
static const char *const open_words[] = {"open", "close", "stop"};
#define SWITCHED(fn)          chain_choice(start, end, word, arg, extra, on_words, "on|off|toggle", fn)
#define MOVED(fn)             chain_choice(start, end, word, arg, extra, open_words, "open|close|stop", fn)
#define NUMBER(low, high, fn) chain_number(start, end, word, arg, extra, low, high, fn)
#define UNKNOWN()             unknown(word)
