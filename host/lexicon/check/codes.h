/* The faults that can be found, each with its stable code. */
#ifndef CODES_H
#define CODES_H

#include <stdbool.h>

enum severity { SEVERITY_ERROR, SEVERITY_WARNING, SEVERITY_NOTE };

/* Code, severity, title, what it means and why it matters. F: the form of the file; D: the design.
 * Codes never change; new ones go to the end. */
#define LEX_CODES(X)                                                                               \
    X(F01, ERROR, "not a statement of the language",                                               \
      "A line is not written as the language wants it. The message says what was expected at "     \
      "the place of the caret; docs/lexicon.md has every statement with an example.")              \
    X(F02, ERROR, "not a text file",                                                               \
      "The file holds a NUL byte, bytes that are not UTF-8, or is too large to be a lexicon.")     \
    X(D01, ERROR, "one word in two meanings",                                                      \
      "Two commands agree up to a place where the same word would be a word of its own in one "    \
      "and a slot's value in the other. Only a later word tells them apart, but the device reads " \
      "word by word and has to know which it is at once.")                                         \
    X(D02, ERROR, "two numbers in one place",                                                      \
      "Two commands agree up to a place where both want a number, each in a way of its own. Only " \
      "a later word or a unit tells them apart, but the device reads word by word and has to "     \
      "know which it is at once.")                                                                 \
    X(D03, ERROR, "two commands that take the same text",                                          \
      "The text in the message is taken by both commands: it is the shortest one. Ranges do not "  \
      "tell commands apart: a value just outside one range must be refused, not obeyed as "        \
      "something else.")                                                                           \
    X(D04, ERROR, "a command that begins like a reply",                                            \
      "Lines that begin with ok, err, ev, note, ready or e1, e2, ... are what devices answer. "    \
      "They are never obeyed and never answered, so that two devices on one wire cannot answer "   \
      "each other for ever. A command that begins so would be passed over in silence.")            \
    X(D05, WARNING, "an output nobody can reach",                                                  \
      "No command and no key switches this output: it stays at its safe state for ever.")          \
    X(D06, ERROR, "a pin used twice",                                                              \
      "Two outputs are on one pin; each would undo what the other did.")                           \
    X(D07, ERROR, "a PWM channel used twice",                                                      \
      "Two outputs are on one PWM channel, which has one duty and one frequency.")                 \
    X(D08, WARNING, "a relay without a safe state",                                                \
      "A relay moves, heats or cools something. What it is at from power-up, before anybody has "  \
      "spoken, is a decision that should stand in the lexicon, not a default.")                    \
    X(D09, ERROR, "a name that C cannot have",                                                     \
      "The emitted C would not compile: a name is a keyword of C or C++, or two names are the "    \
      "same once they are written as C identifiers.")                                              \
    X(D10, ERROR, "a command longer than its line",                                                \
      "The longest spelling of the command, with one blank between words, is longer than the "     \
      "link's `longest`: it would be refused as `long` whenever it is said.")                      \
    X(D11, WARNING, "a reply longer than its ring",                                                \
      "The reply does not fit the link's transmit ring and is cut to `ok` or `err NAME`.")         \
    X(D12, WARNING, "a command no link can say",                                                   \
      "All links take keys, and no key stands for this command.")                                  \
    X(D13, ERROR, "one handler with two kinds of arguments",                                       \
      "Two commands call the same function, but their slots have different C types.")              \
    X(D14, ERROR, "an output told what it cannot do",                                              \
      "The command's slot holds words or values that the output does not understand.")             \
    X(D15, ERROR, "a key for nothing",                                                             \
      "The key stands for a text that no command takes: pressing it could only be refused.")       \
    X(D16, WARNING, "an accepted warning that is not there",                                       \
      "An `accept` names a warning that was not found: it is out of date, or misspelt.")           \
    X(D17, ERROR, "more than an image can hold",                                                   \
      "The tables have 16-bit offsets: an image has at most 65,535 bytes.")                        \
    X(D18, ERROR, "a slot that needs its place for itself",                                        \
      "Sets, texts and lists are read without looking on: where one stands, no other command "     \
      "may have something else. Put a word before it.")                                            \
    X(D19, ERROR, "a number that hides a value",                                                   \
      "A `number` stands for one command, but its digits are a value of another one, which could " \
      "then never be said.")                                                                       \
    X(D20, NOTE, "undecided",                                                                      \
      "The lexicon cannot be read in one pass, and has too many pairs of commands to look for "    \
      "all texts that two of them take. Mend what is told, and check again.")

enum lex_code {
#define LEX_CODE_ENUM(code, severity, title, text) LEX_##code,
    LEX_CODES(LEX_CODE_ENUM)
#undef LEX_CODE_ENUM
        LEX_N_CODES
};

struct lex_code_info {
    const char *code, *title, *text;
    enum severity severity;
};
extern const struct lex_code_info lex_codes[LEX_N_CODES];

/* The number of the code with this name, or -1. */
int lex_code_named(const char *name);

#endif
