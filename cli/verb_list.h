/* The tool's verbs: a row each, its name and what it does; cli/NAME.c has verb_NAME(). */
#ifndef VERB_LIST_H
#define VERB_LIST_H

#define CLI_VERBS(X)                                                    \
    X(new, "make a project: lexicon, firmware, scene, build file")      \
    X(check, "look for faults in a lexicon")                            \
    X(emit, "write the C for the firmware")                             \
    X(weigh, "estimate flash, RAM and time on a chip")                  \
    X(card, "print the reference card")                                 \
    X(talk, "talk to the device on a simulated board")                  \
    X(serve, "open a simulated board, live, for terminals and sockets") \
    X(play, "play scenes: scripted tests")                              \
    X(drill, "try every command over every link")                       \
    X(learn, "find out what a sender sends, from recordings")           \
    X(compare, "say which senders a change of the lexicon breaks")      \
    X(draw, "draw a trace: a picture, or other forms of it")

#define CLI_VERB(name, what) int verb_##name(int argc, char **argv);
CLI_VERBS(CLI_VERB)
#undef CLI_VERB

#endif
