/* Any sender's writer: numbers, words and texts into a command.
 * Put into NAME_LINK.c by sender.c, with the sender's own names.
 * It knows no command. */
/* ---- what is sent ---- */

/* A command as it is written. */
struct line {
    uint8_t count;
    enum rlx_sender_result result;
    char text[RLX_CLIENT_BYTES + 1]; /* ended by a 0 */
};

static inline void begin_line(struct line *line)
{
    line->count = 0;
    line->result = RLX_SENDER_QUEUED;
    line->text[0] = 0;
}

static inline void put_char(struct line *line, char c)
{
    if (line->count == RLX_CLIENT_BYTES) {
        line->result = RLX_SENDER_TOO_LONG;
        return;
    }
    line->text[line->count++] = c;
    line->text[line->count] = 0;
}

static inline void put_text(struct line *line, rom_text text)
{
    for (char c; (c = ROM_CHAR(text)) != 0; text++) put_char(line, c);
}

static inline void check_range(struct line *line, int32_t value, int32_t low, int32_t high)
{
    if (value < low || value > high) line->result = RLX_SENDER_OUT_OF_RANGE;
}

/* A number with so many digits behind the point. */
static inline void put_digits(struct line *line, int32_t value, uint8_t decimals)
{
    char digit[11];
    uint8_t n = 0;
    uint32_t left = value < 0 ? 0u - (uint32_t)value : (uint32_t)value;
    if (value < 0) put_char(line, '-');
    do {
        digit[n++] = (char)('0' + left % 10u);
        left /= 10u;
    } while (left || n <= decimals);
    while (n) {
        put_char(line, digit[--n]);
        if (decimals && n == decimals) put_char(line, '.');
    }
}

static inline void put_whole(struct line *line, int32_t value, int32_t low, int32_t high)
{
    check_range(line, value, low, high);
    put_digits(line, value, 0);
}

/* Without its point: 75 is 7.5. */
static inline void put_decimal(struct line *line, int32_t value, int32_t low, int32_t high,
                               uint8_t decimals)
{
    check_range(line, value, low, high);
    put_digits(line, value, decimals);
}

static inline void put_hex(struct line *line, int32_t value, int32_t low, int32_t high)
{
    uint8_t shift = 28;
    check_range(line, value, low, high);
    put_char(line, '0');
    put_char(line, 'x');
    while (shift && !((uint32_t)value >> shift)) shift = (uint8_t)(shift - 4);
    for (;; shift = (uint8_t)(shift - 4)) {
        uint8_t nibble = (uint8_t)((uint32_t)value >> shift & 15);
        put_char(line, (char)(nibble < 10 ? '0' + nibble : 'A' + nibble - 10));
        if (!shift) break;
    }
}

/* Milliseconds, in the largest unit that leaves nothing over. */
static inline void put_time(struct line *line, int32_t value, int32_t low, int32_t high)
{
    uint8_t unit = 0;
    check_range(line, value, low, high);
    while (value && unit < 3 && value % (unit ? 60 : 1000) == 0) value /= unit++ ? 60 : 1000;
    put_digits(line, value, 0);
    put_text(line, unit == 0   ? ROM("ms")
                   : unit == 1 ? ROM("s")
                   : unit == 2 ? ROM("min")
                               : ROM("h"));
}

/* The word with this number of so many. */
static inline void put_word(struct line *line, uint16_t number, uint16_t most, rom_text words)
{
    if (number >= most) {
        line->result = RLX_SENDER_OUT_OF_RANGE;
        return;
    }
    while (number--)
        while (ROM_CHAR(words++)) {}
    put_text(line, words);
}

/* A word for each bit. */
static inline void put_words(struct line *line, uint16_t bits, uint16_t most, rom_text words)
{
    bool first = true;
    if (bits >> most) line->result = RLX_SENDER_OUT_OF_RANGE;
    if (!bits) put_text(line, ROM("none"));
    for (uint8_t i = 0; i < most; i++) {
        if (!(bits >> i & 1)) continue;
        if (!first) put_char(line, '+');
        first = false;
        put_word(line, i, most, words);
    }
}

static inline bool has_count(struct line *line, uint16_t count, uint16_t least, uint16_t most)
{
    if (count >= least && count <= most) return true;
    line->result = RLX_SENDER_OUT_OF_RANGE;
    return false;
}

/* In quotes: no control character and no quote. */
static inline void put_quoted(struct line *line, const char *text, uint16_t least, uint16_t most)
{
    uint16_t count = 0;
    put_char(line, '"');
    for (; text[count] && count <= most; count++) {
        uint8_t c = (uint8_t)text[count];
        if (c < ' ' || c == 127 || c == '"' || is_end(c)) line->result = RLX_SENDER_BAD_TEXT;
        put_char(line, (char)c);
    }
    has_count(line, count, least, most);
    put_char(line, '"');
}

/* To the end of the line: printable ASCII, with no blank at either end. */
static inline void put_rest(struct line *line, const char *text, uint16_t least, uint16_t most)
{
    uint16_t count = 0;
    for (; text[count] && count <= most; count++) {
        uint8_t c = (uint8_t)text[count];
        if (c < ' ' || c > '~' || is_end(c)) line->result = RLX_SENDER_BAD_TEXT;
        put_char(line, (char)c);
    }
    if (count && (text[0] == ' ' || text[count - 1] == ' ')) line->result = RLX_SENDER_BAD_TEXT;
    has_count(line, count, least, most);
}
