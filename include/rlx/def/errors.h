/* The errors: number, id, name on the wire, sentence. After a change the compiler asks which
 * lexicons can lead to the error (host/lexicon/write/table_image.c) and when a drill could meet it
 * (host/drill/run/cover.c); docs/lexicon.md lists them. */
#ifndef RLX_DEF_ERRORS_H
#define RLX_DEF_ERRORS_H

/* The errors in replies: `err <name> ...`. Numbers never change; new ones go to the end. */
#define RLX_REPLY_ERRORS(X)                                                                  \
    X(1, UNKNOWN, "unknown", "no command begins with this word, or no such key")             \
    X(2, AMBIGUOUS, "ambiguous", "the shortened word could be more than one")                \
    X(3, CHOICE, "choice", "the word is none of those possible here")                        \
    X(4, MISSING, "missing", "the command ends where this is still wanted")                  \
    X(5, EXTRA, "extra", "the command is over before this word")                             \
    X(6, NUMBER, "number", "not a whole number, or not the slot's unit behind it")           \
    X(7, RANGE, "range", "the number is outside the slot's range")                           \
    X(8, DIGITS, "digits", "more leading zeros than the slot is wide")                       \
    X(9, BYTE, "byte", "a control byte or one above 126 in the frame")                       \
    X(10, LONG, "long", "the line is longer than the link takes")                            \
    X(11, LOST, "lost", "bytes of this frame were lost before they could be read")           \
    X(12, FAILED, "failed", "the handler, or the output, could not do it")                   \
    X(13, BUSY, "busy", "the handler cannot do it now; send it again later")                 \
    X(14, TEXT, "text", "not a text in quotes, or its quotes are never closed")              \
    X(15, HALF, "half", "the rest of it did not come in time, or something else")            \
    X(16, CHECK, "check", "there is no check, or it does not fit the frame")                 \
    X(17, TAG, "tag", "there is no tag, or it is none of 0..32767")                          \
    X(18, OLD, "old", "the tag was used before, not just now or for another text")           \
    X(19, DENIED, "denied", "this link does not accept it, or its code is wrong")            \
    X(20, HALTED, "halted", "a halt that came later overtook it")                            \
    X(21, YIELDS, "yields", "another link is in use, and goes before this one")              \
    X(22, LATE, "late", "the message is older than the link takes")                          \
    X(23, ALPHABET, "alphabet", "the message has characters that no command has")            \
    X(24, UNSURE, "unsure", "the power was cut while it was done: perhaps it was")           \
    X(25, BLOCKED, "blocked", "an input or output does not permit it now; its name follows") \
    X(26, REST, "rest", "its channels have to be at rest before they move anything")         \
    X(27, SEAL, "seal", "there is no seal, or it is not made with a key of this sender")

/* What rlx_init() can refuse. Never on the wire. */
#define RLX_INIT_ERRORS(X)                                                            \
    X(64, VERSION, "version", "library, header and image are not of one version")     \
    X(65, IMAGE, "image", "there is no image")                                        \
    X(66, BUILD, "build", "the image needs a feature this build lacks (see `lacks`)") \
    X(67, BUFFER, "buffer", "a link's buffers are missing or too small for its replies")

/* What a link's own text of an error can have in it, as {name}: number, id, name, and the errors
 * that know it. In the image its number stands for it. */
#define RLX_ERROR_FIELDS(X)                                                         \
    X(1, NAME, "name", ~UINT64_C(0))                                                \
    X(2, WORD, "word",                                                              \
      RLX_ERROR_BIT(UNKNOWN) | RLX_ERROR_BIT(AMBIGUOUS) | RLX_ERROR_BIT(CHOICE) |   \
          RLX_ERROR_BIT(EXTRA) | RLX_ERROR_BIT(DENIED) | RLX_ERRORS_OF_NUMBERS)     \
    X(3, WANTED, "wanted",                                                          \
      RLX_ERROR_BIT(CHOICE) | RLX_ERROR_BIT(MISSING) | RLX_ERROR_BIT(TEXT) |        \
          RLX_ERRORS_OF_NUMBERS)                                                    \
    X(4, SLOT, "slot", RLX_ERRORS_OF_NUMBERS)                                       \
    X(5, LOW, "low", RLX_ERRORS_OF_NUMBERS)                                         \
    X(6, HIGH, "high", RLX_ERRORS_OF_NUMBERS)                                       \
    X(7, AT, "at", RLX_ERRORS_PLACED | RLX_ERROR_BIT(TEXT) | RLX_ERROR_BIT(DENIED)) \
    X(8, INPUT, "input", RLX_ERROR_BIT(BLOCKED))
#define RLX_ERROR_BIT(id)     (UINT64_C(1) << RLX_ERR_##id)
#define RLX_ERRORS_OF_NUMBERS (RLX_ERROR_BIT(NUMBER) | RLX_ERROR_BIT(RANGE) | RLX_ERROR_BIT(DIGITS))
#define RLX_ERRORS_PLACED     ((UINT64_C(1) << RLX_ERR_FAILED) - 2) /* those before it */
#define RLX_FIELD_BELOW       16u /* a character of a text below it is a field */

/* The first number of the reasons that a lexicon's handlers refuse with, and how many there may be.
 */
#define RLX_ERR_REASON  40
#define RLX_MOST_REASON 24

enum rlx_error {
    RLX_OK = 0,
#define RLX_ERROR_ENUM(number, id, name, sentence) RLX_ERR_##id = (number),
    RLX_REPLY_ERRORS(RLX_ERROR_ENUM) RLX_ERR_REPLIES, /* their end */
    RLX_INIT_ERRORS(RLX_ERROR_ENUM)
#undef RLX_ERROR_ENUM
};

enum rlx_error_field {
#define RLX_FIELD_ENUM(number, id, name, errors) RLX_FIELD_##id = (number),
    RLX_ERROR_FIELDS(RLX_FIELD_ENUM)
#undef RLX_FIELD_ENUM
};

#endif
