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
      "Two outputs or inputs are on one pin; each would undo what the other did.")                 \
    X(D07, ERROR, "a PWM channel used twice",                                                      \
      "Two outputs are on one PWM channel, which has one duty and one frequency.")                 \
    X(D08, WARNING, "no safe state told",                                                          \
      "It moves, heats or cools something. What it is at from power-up, before anybody has "       \
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
      "all texts that two of them take. Mend what is told, and check again.")                      \
    X(D21, ERROR, "a routine's step that no command takes",                                        \
      "A routine is checked like what is said on a link: each step is a command, or "              \
      "wait and a time.")                                                                          \
    X(D22, ERROR, "a command longer than its packet",                                              \
      "The longest spelling of the command, with address, tag, check and seal around it "          \
      "where the link has them, does not fit one packet or one text message.")                     \
    X(D23, WARNING, "a reply longer than its packet",                                              \
      "The reply does not fit one packet or one text message: it falls back to its "               \
      "short form, ok or e and a number.")                                                         \
    X(D24, ERROR, "an event longer than its packet",                                               \
      "An event has no short form: what does not fit one packet or one text message "              \
      "cannot be told.")                                                                           \
    X(D25, WARNING, "a character that costs two",                                                  \
      "In a text message (3GPP TS 23.038) this character takes two of the 160 places.")            \
    X(D26, ERROR, "a character that cannot be sent",                                               \
      "The alphabet of text messages (3GPP TS 23.038) does not have this character; the "          \
      "message would be sent in another alphabet, with 70 places, and most readers of "            \
      "it would not understand.")                                                                  \
    X(D27, ERROR, "a command longer than its fixed frame",                                         \
      "The longest spelling of the command does not fit the link's frame of a fixed "              \
      "length.")                                                                                   \
    X(D28, WARNING, "a frame that one lost byte puts out of step",                                 \
      "Nothing but the count of bytes tells where a frame begins. After one lost byte "            \
      "every frame is cut at the wrong place, for ever: a gap, or a time after which a "           \
      "half-said frame is dropped, brings it back into step.")                                     \
    X(D29, WARNING, "not safe to say twice",                                                       \
      "A packet can be delivered twice: a sender that heard no reply says it again. "              \
      "Without tags the device cannot know that it is the same, and obeys twice; a "               \
      "toggle is then where it was.")                                                              \
    X(D30, ERROR, "an answer where there is no way back",                                          \
      "Over a one-way link nothing can be asked for, told or confirmed.")                          \
    X(D31, WARNING, "a link that anybody can use",                                                 \
      "The medium is shared, and nothing tells who may command: no senders with "                  \
      "addresses, no seal, no list of numbers. Write `open` where that is meant.")                 \
    X(D32, WARNING, "what moves and cannot be stopped",                                            \
      "No command stops it: no `stop`, no level that may be 0, no expiry.")                        \
    X(D33, WARNING, "an input that nobody hears of",                                               \
      "No event tells of it and no output stops at it.")                                           \
    X(D34, ERROR, "an expiry shorter than the sender's repeat",                                    \
      "While the button is held, the command expires before it is said again: the "                \
      "output stutters.")                                                                          \
    X(D35, WARNING, "reversed without dead time",                                                  \
      "Both directions can be said one after the other, and neither a dead time nor a "            \
      "ramp stands between them.")                                                                 \
    X(D36, WARNING, "a way without an end",                                                        \
      "No input sees the end of the way, and no travel time ends it: the motor runs on "           \
      "against the stop.")                                                                         \
    X(D37, ERROR, "a button that is not understood",                                               \
      "The device would not take what the handset says as it is meant.")                           \
    X(D38, ERROR, "a code that begins another",                                                    \
      "A self-ending frame ends as soon as it is complete: the longer one could never "            \
      "be said.")                                                                                  \
    X(D39, WARNING, "text that swallows what follows",                                             \
      "Text to the end of the line takes all of it, also what elsewhere would be the "             \
      "next command of a batch, or a check.")                                                      \
    X(D40, ERROR, "an ignored text that is a command",                                             \
      "The text is to be ignored, but a command takes it, which then could never be "              \
      "said.")                                                                                     \
    X(D41, ERROR, "a command that holds its own end",                                              \
      "The link's last character can stand within a command: the frame would end there.")          \
    X(D42, WARNING, "a loss that nobody tells",                                                    \
      "An output follows whether a link is there, but nothing tells that it is gone: neither "     \
      "a state pin nor a silence that is too long.")                                               \
    X(D43, ERROR, "a text of a link's own that is a command",                                      \
      "What a link says instead of its replies is never obeyed over it, so that two devices or "   \
      "an echo cannot command each other: a command with the same text could never be said.")      \
    X(D44, WARNING, "what moves, and only some commands expire",                                   \
      "One command to the output expires and another one does not. An expiry that runs is kept, "  \
      "so that it stops in time after the one; after the other alone it moves on when the sender " \
      "goes quiet.")                                                                               \
    X(D45, ERROR, "an event that nobody can confirm",                                              \
      "The device repeats a confirmed event until somebody answers `got`. Nobody can answer "      \
      "here.")                                                                                     \
    X(D46, WARNING, "notes that no link tells",                                                    \
      "`notes` is built in, but every link goes one way, is a radio or sends text messages: what " \
      "the firmware notes is counted, and never told.")

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
