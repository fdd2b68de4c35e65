/* Twelve commands as they are often written by hand: a buffer, strtok(), atoi(), a chain of ifs.
 * It reads the bytes of a serial port from standard input. What the outputs do goes to standard
 * output, behind a '='. docs/compare-by-hand.md shows what it does with lines that are not right. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static char line[32];
static unsigned length;
static int pump = 1, beacon, lamp;

static void output(const char *name, int value)
{
    printf("= %s %d\n", name, value);
}

static int on_off(const char *word, int now)
{
    if (!strcmp(word, "toggle")) return !now;
    return !strcmp(word, "on");
}

static void execute(char *text)
{
    char *word = strtok(text, " "), *arg = strtok(NULL, " ");
    if (!word) return;
    int value = arg ? atoi(arg) : 0;
    if (!strcmp(word, "pump")) {
        output("pump", pump = on_off(arg, pump));
    } else if (!strcmp(word, "chiller")) {
        output("chiller", on_off(arg, 0));
    } else if (!strcmp(word, "beacon") && !strcmp(arg, "flash")) {
        output("beacon flashes", atoi(strtok(NULL, " ")));
    } else if (!strcmp(word, "beacon")) {
        output("beacon", beacon = on_off(arg, beacon));
    } else if (!strcmp(word, "lamp")) {
        output("lamp", lamp = on_off(arg, lamp));
    } else if (!strcmp(word, "glow")) {
        if (value < 0 || value > 100) {
            printf("error\n");
            return;
        }
        output("glow", value);
    } else if (!strcmp(word, "weir")) {
        output("weir", value);
    } else if (!strcmp(word, "gate")) {
        output("gate", *arg == 'o' ? 1 : *arg == 'c' ? -1 : 0);
    } else if (!strcmp(word, "feed")) {
        output("feeder", value);
    } else if (!strcmp(word, "dose")) {
        output("dose", value);
    } else if (!strcmp(word, "fill")) {
        output("fill", value);
    } else if (!strcmp(word, "night")) {
        output("glow", 5);
    } else {
        printf("error\n");
        return;
    }
    printf("ok\n");
}

int main(void)
{
    int c;
    setvbuf(stdout, NULL, _IONBF, 0);
    while ((c = getchar()) != EOF) {
        if (c == '\n') {
            line[length] = 0;
            length = 0;
            execute(line);
        } else if (length < sizeof line - 1) {
            line[length++] = (char)c;
        }
    }
    return 0;
}
