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
      "and a slot's value in the other. Only a later word shows which it is, but the device "      \
      "reads "                                                                                     \
      "word by word and has to know at once.")                                                     \
    X(D02, ERROR, "two numbers in one place",                                                      \
      "Two commands agree up to a place where both want a number, each in a way of its own. Only " \
      "a later word or a unit shows which it is, but the device reads word by word and has to "    \
      "know at once.")                                                                             \
    X(D03, ERROR, "two commands that take the same text",                                          \
      "The text in the message is taken by both commands: it is the shortest one. Ranges do not "  \
      "distinguish commands: a value just outside one range must be refused, not obeyed as "       \
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
    X(D08, WARNING, "no safe state given",                                                         \
      "It moves, heats or cools something. What it does from power-up, before the first "          \
      "command, is a decision: write it in the lexicon. Do not leave it to a default.")            \
    X(D09, ERROR, "a name that C cannot have",                                                     \
      "The emitted C would not compile: a name is a keyword of C or C++, or two names are the "    \
      "same once they are written as C identifiers.")                                              \
    X(D10, ERROR, "a command longer than its line",                                                \
      "The longest spelling of the command, with one blank between words, is longer than the "     \
      "link's `longest`: the device would always refuse it as `long`.")                            \
    X(D11, WARNING, "a reply longer than its ring",                                                \
      "The reply does not fit the link's transmit ring and is cut to `ok` or `err NAME`.")         \
    X(D12, WARNING, "a command that no link accepts",                                              \
      "All links take keys, and no key stands for this command.")                                  \
    X(D13, ERROR, "one handler with two kinds of arguments",                                       \
      "Two commands call the same function, but their slots have different C types.")              \
    X(D14, ERROR, "a command that the output cannot do",                                           \
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
      "A `number` stands for one command, but its digits are a value of another one, which the "   \
      "device could then never receive.")                                                          \
    X(D20, NOTE, "undecided",                                                                      \
      "The lexicon cannot be read in one pass, and has too many pairs of commands to look for "    \
      "all texts that two of them take. Correct the faults above, and check again.")               \
    X(D21, ERROR, "a routine's step that no command takes",                                        \
      "A routine is checked like commands on a link: each step is a command, or "                  \
      "wait and a time.")                                                                          \
    X(D22, ERROR, "a command longer than its packet",                                              \
      "The longest spelling of the command, with address, tag, check and seal around it "          \
      "where the link has them, does not fit one packet or one text message.")                     \
    X(D23, WARNING, "a reply longer than its packet",                                              \
      "The reply does not fit one packet or one text message: it falls back to its "               \
      "short form, ok or e and a number.")                                                         \
    X(D24, ERROR, "an event longer than its packet",                                               \
      "An event has no short form: if it does not fit one packet or one text message, "            \
      "the device cannot send it.")                                                                \
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
      "Only the count of bytes shows where a frame begins. After one lost byte "                   \
      "every frame is cut at the wrong place, for ever: a gap, or a time after which a "           \
      "part of a frame is dropped, brings it back into step.")                                     \
    X(D29, WARNING, "not safe to send twice",                                                      \
      "A packet can be delivered twice: a sender that receives no reply sends it again. "          \
      "Without tags the device cannot know that it is the same, and obeys twice; a "               \
      "toggle is then where it was.")                                                              \
    X(D30, ERROR, "an answer where there is no way back",                                          \
      "A one-way link has no answers: no queries, no events, no acknowledgements.")                \
    X(D31, WARNING, "a link that anybody can use",                                                 \
      "The medium is shared, and anybody can send commands: no seal, no list of numbers. An "      \
      "address is no lock. Write `open` where that is meant.")                                     \
    X(D32, WARNING, "what moves and cannot be stopped",                                            \
      "No command stops it: no `stop`, no level that may be 0, no expiry.")                        \
    X(D33, WARNING, "an input without effect",                                                     \
      "No event reports it, no output stops at it, and it does nothing itself.")                   \
    X(D34, ERROR, "an expiry shorter than the sender's repeat",                                    \
      "While the button is held, the command expires before it is sent again: the "                \
      "output stutters.")                                                                          \
    X(D35, WARNING, "reversed without dead time",                                                  \
      "Both directions can be commanded one after the other, with neither a dead time nor a "      \
      "ramp between them.")                                                                        \
    X(D36, WARNING, "a way without an end",                                                        \
      "No input sees the end of the way, and no travel time ends it: the motor runs on "           \
      "against the stop.")                                                                         \
    X(D37, ERROR, "a button that is not understood",                                               \
      "The device would not understand what the handset sends.")                                   \
    X(D38, ERROR, "a code that begins another",                                                    \
      "A self-ending frame ends as soon as it is complete: the device could never "                \
      "receive the longer one.")                                                                   \
    X(D39, WARNING, "text that swallows what follows",                                             \
      "Text to the end of the line takes all of it, also what elsewhere would be the "             \
      "next command of a batch, or a check.")                                                      \
    X(D40, ERROR, "an ignored text that is a command",                                             \
      "The text is to be ignored, but a command takes it, which the device could "                 \
      "then never receive.")                                                                       \
    X(D41, ERROR, "a command that holds its own end",                                              \
      "The link's last character can stand within a command: the frame would end there.")          \
    X(D42, WARNING, "a loss that nobody detects",                                                  \
      "An output depends on a link, but nothing detects the loss of that link: neither a state "   \
      "pin nor a time without frames.")                                                            \
    X(D43, ERROR, "a text of a link's own that is a command",                                      \
      "A link never obeys its own reply texts as commands, so that two devices or "                \
      "an echo cannot command each other: the device could never receive a command with the same " \
      "text, or one that begins like a text with values.")                                         \
    X(D44, WARNING, "what moves, and only some commands expire",                                   \
      "One command to the output expires and another one does not. An expiry that runs is kept, "  \
      "so that it stops in time after the one; after the other alone it moves on when the sender " \
      "goes quiet.")                                                                               \
    X(D45, ERROR, "an event that nobody can confirm",                                              \
      "The device repeats a confirmed event until somebody answers `got`. Nobody can answer "      \
      "here.")                                                                                     \
    X(D46, WARNING, "notes that no link sends",                                                    \
      "`notes` is built in, but every link goes one way, is a radio or sends text messages: the "  \
      "device counts the notes of the firmware, and never sends them.")                            \
    X(D47, WARNING, "a receive ring too small for the polls",                                      \
      "At this baud rate more bytes can come between two polls than the receive ring holds. The "  \
      "device counts the others as lost, and refuses the command that they belong to.")            \
    X(D48, WARNING, "what an input does and does not permit",                                      \
      "When the input changes, it commands an output that it does not permit to move just then: "  \
      "the command is always refused.")                                                            \
    X(D49, ERROR, "a memory too small for what is kept",                                           \
      "An area of the non-volatile memory has to hold each setting twice, so that a change has "   \
      "a place beside the values before it; for a modem, six messages too.")                       \
    X(D50, WARNING, "an event that is repeated at a price",                                        \
      "A confirmed event is sent again until somebody answers `got`. Over text messages each "     \
      "time has its price, and `at most N a day` is what ends it.")                                \
    X(D51, WARNING, "an event that goes to a link with a price",                                   \
      "An event without `to` goes to all links. Over text messages each one has its price; say "   \
      "`to` and the links, these too where that is meant.")                                        \
    X(D52, WARNING, "a lock that strangers can change",                                            \
      "The setting holds a key, a code or the numbers of those who may command. `also` or `only` " \
      "names it on a link that anybody can reach. Leave it out there, or write `seal required`.")  \
    X(D53, WARNING, "settings that leave a range empty",                                           \
      "Settings are the ends of a slot's range, and they can have values between which nothing "   \
      "is left: then the command is always refused. Bound the settings by each other, like "       \
      "`setting low {0..99 up to high}` and `setting high {0..99 from low}`, or narrow what they " \
      "can be.")                                                                                   \
    X(D54, WARNING, "beyond what a setting allows",                                                \
      "A routine, a key, a number or a button sends a value that is beyond the range as it is "    \
      "while nobody has changed the setting: it is refused until somebody does.")                  \
    X(D55, ERROR, "the same bytes for two commands",                                               \
      "Two rows of a layout have the same length, and no constant in one that differs from the "   \
      "other. The device could not know which command such a frame is. Or one channel moves two "  \
      "commands, or one place of a switch chooses two.")                                           \
    X(D56, ERROR, "an answer that is a command",                                                   \
      "An answer or event of the device has the bytes of a frame on the same link. An echo, or "   \
      "another device with this layout, would obey it, or answer it for ever. Begin frames and "   \
      "answers with constants that differ.")                                                       \
    X(D57, WARNING, "damage that nobody notices",                                                  \
      "Frames of bytes hold any values, so that only a check shows damage. Without one a changed " \
      "bit is another value or another command. A sum or xor of 8 bits lets some damage through "  \
      "that radio and modem links do to frames; a crc16 does not.")                                \
    X(D58, WARNING, "a code that can be guessed",                                                  \
      "The code can be so short that somebody tries all of them. The device looks at one wrong "   \
      "code in 64 minutes at most: 100 codes take 4 days, 10,000 take 444. Give the setting a "    \
      "longer least length, like `{text 6..12}`.")                                                 \
    X(D59, WARNING, "a session that anybody opens",                                                \
      "A command or setting waits for an output, and a command without a code switches that "      \
      "output on over a link that anybody can reach. Give that command a `code`, or limit the "    \
      "link with `only`.")                                                                         \
    X(D60, WARNING, "a memory that anybody wears out",                                             \
      "A page of non-volatile memory can be erased 10,000 times on many chips, and changes of a "  \
      "setting fill it. Who can reach the link can change the setting without end. Write `saved "  \
      "every 10s` behind the setting, or `erases 10 a day` behind `memory`, or limit the link "    \
      "with `only`. With kept tags commands are recorded, too: with `erases` the device refuses "  \
      "them as busy when the day's are used up.")                                                  \
    X(D61, ERROR, "a contract that cannot hold",                                                   \
      "No firmware can do what the contract of a function says. Write `by firmware` behind an "    \
      "output that a handler drives, and a `within` as long as its minimum times, its dead time, " \
      "its ramp and its fade together. What a contract makes on, off or leaves is one of the "     \
      "three for the same values.")

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
