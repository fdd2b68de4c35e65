/* Runs one parser on Linux: say FILE [bytes]. Prints the replies, a line of the file said at a
 * time; for the count of instructions with a tool that follows rlx_answer() or answer(). */
#include <stdio.h>
#include <string.h>

#include "uut.h"

void kick(void)
{
}

int main(int argc, char **argv)
{
    char text[128];
    uint8_t byte;
    FILE *f = argc > 1 ? fopen(argv[1], "r") : NULL;
    bool quiet = argc > 2;
    if (!f) return 2;
    UUT_START();
    while (fgets(text, sizeof text, f)) {
        for (const char *p = text; *p; p++) UUT_FEED((uint8_t)*p);
        UUT_POLL();
        if (!quiet) printf("%s", text);
        while (UUT_TAKE(&byte))
            if (!quiet) putchar(byte);
    }
    return 0;
}
