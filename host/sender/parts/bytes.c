/* Any sender whose frames are bytes: bits and sums, what stands between frames, texts to bytes and
 * back. Put into NAME_LINK.c by sender.c, with the sender's own names, behind the readers of texts.
 * The rows of the layout are made from the lexicon. */
/* ---- bits ---- */

/* A frame that is written or read: from the most significant bit of its first byte on. */
struct bits {
    uint8_t *at;
    uint16_t done, checked; /* bits so far; bytes before those that the check covers */
};

static inline void begin_bits(struct bits *b, uint8_t *at)
{
    b->at = at;
    b->done = b->checked = 0;
}

/* The place of a bit of a number: most significant first, or byte by byte. */
static inline uint8_t bit_at(uint8_t i, uint8_t bits, bool little)
{
    return (uint8_t)(little ? (i & 0xF8u) + 7u - (i & 7u) : bits - 1u - i);
}

static inline void put_bits(struct bits *b, uint32_t value, uint8_t bits, bool little)
{
    for (uint8_t i = 0; i < bits; i++, b->done++) {
        uint8_t mask = (uint8_t)(0x80u >> (b->done & 7u)), *byte = b->at + b->done / 8u;
        if (mask == 0x80u) *byte = 0;
        if (value >> bit_at(i, bits, little) & 1u) *byte = (uint8_t)(*byte | mask);
    }
}

static inline uint32_t take_bits(struct bits *b, uint8_t bits, bool little)
{
    uint32_t value = 0;
    for (uint8_t i = 0; i < bits; i++, b->done++)
        if (b->at[b->done / 8u] & 0x80u >> (b->done & 7u))
            value |= UINT32_C(1) << bit_at(i, bits, little);
    return value;
}

/* A number of two's complement. */
static inline int32_t take_signed(struct bits *b, uint8_t bits, bool little)
{
    uint32_t value = take_bits(b, bits, little);
    if (bits < 32 && value >> (bits - 1) & 1u) value |= UINT32_MAX << bits;
    return (int32_t)value;
}

/* A value of one range in another one, to the nearest. */
static inline int32_t between(int32_t value, int32_t from, int32_t to, int32_t low, int32_t high)
{
    int64_t range = (int64_t)to - from;
    int64_t product = ((int64_t)value - from) * ((int64_t)high - low);
    if (range < 0) {
        range = -range;
        product = -product;
    }
    return (int32_t)(low + (product < 0 ? product - range / 2 : product + range / 2) / range);
}

/* ---- checks, of all bytes from `checked` on ---- */

static inline uint32_t sum_of(const struct bits *b)
{
    uint32_t sum = 0;
    for (uint16_t i = b->checked; i < b->done / 8u; i++) sum += b->at[i];
    return sum;
}

static inline uint32_t xor_of(const struct bits *b)
{
    uint8_t sum = 0;
    for (uint16_t i = b->checked; i < b->done / 8u; i++) sum ^= b->at[i];
    return sum;
}

/* A published CRC by its catalogued parameters, polynomial and start not reflected. */
static inline uint32_t crc_of_bits(const struct bits *b, uint8_t bits, uint16_t polynomial,
                                   uint16_t start, uint16_t last, bool reflected)
{
    uint16_t top = (uint16_t)(1u << (bits - 1)), all = (uint16_t)(top | (top - 1u)), sum = start;
    for (uint16_t i = b->checked; i < b->done / 8u; i++)
        for (uint8_t n = 0; n < 8; n++) {
            bool bit = b->at[i] >> (reflected ? n : 7 - n) & 1;
            bool out = (sum & top) != 0;
            sum = (uint16_t)((unsigned)sum << 1 & all);
            if (out != bit) sum ^= polynomial;
        }
    if (reflected) {
        uint16_t other = 0;
        for (uint8_t n = 0; n < bits; n++)
            if (sum >> n & 1) other = (uint16_t)(other | 1u << (bits - 1 - n));
        sum = other;
    }
    return sum ^ last;
}

/* ---- texts of answers ---- */

/* The text that a frame of the device stands for: "ok", "e7", "ev reel full". */
struct told {
    char text[RLX_SENDER_TOLD];
    uint8_t count;
};

static inline void tell_char(struct told *t, char c)
{
    if (t->count < sizeof t->text) t->text[t->count++] = c;
}

static inline void tell_text(struct told *t, rom_text text)
{
    for (char c; (c = ROM_CHAR(text)) != 0; text++) tell_char(t, c);
}

static inline void tell_line(struct told *t, const struct line *line)
{
    for (uint8_t i = 0; i < line->count; i++) tell_char(t, line->text[i]);
}

/* A number as the lexicon writes it. */
static inline void tell_digits(struct told *t, int32_t value, uint8_t decimals)
{
    struct line line;
    begin_line(&line);
    put_digits(&line, value, decimals);
    tell_line(t, &line);
}

/* ---- what stands between frames ---- */

#if RLX_SENDER_STUFFED
/* RFC 1662: between flags, with 0x7D before what looks like one. Returns its size. */
static uint8_t wrap(const uint8_t *frame, uint8_t count, uint8_t *to)
{
    uint8_t at = 0;
    to[at++] = 0x7E;
    for (; count; count--, frame++) {
        bool escape = *frame == 0x7E || *frame == 0x7D;
        if (escape) to[at++] = 0x7D;
        to[at++] = (uint8_t)(escape ? *frame ^ 0x20u : *frame);
    }
    to[at++] = 0x7E;
    return at;
}

/* In its place. Its size; 0: it is damaged. */
static uint8_t unwrap(uint8_t *frame, uint8_t count)
{
    uint8_t size = 0;
    for (uint8_t i = 0; i < count; i++) {
        bool escape = frame[i] == 0x7D;
        if (escape && ++i == count) return 0;
        frame[size++] = (uint8_t)(escape ? frame[i] ^ 0x20u : frame[i]);
    }
    return size;
}
#elif RLX_SENDER_COBS
/* Consistent overhead byte stuffing, and the zero at its end. Returns its size. */
static uint8_t wrap(const uint8_t *frame, uint8_t count, uint8_t *to)
{
    uint8_t code = 0, at = 1;
    to[0] = 1;
    for (; count; count--, frame++) {
        if (*frame) {
            to[at++] = *frame;
            to[code]++;
        } else {
            code = at;
            to[at++] = 1;
        }
    }
    to[at++] = 0;
    return at;
}

static uint8_t unwrap(uint8_t *frame, uint8_t count)
{
    uint8_t size = 0;
    for (uint8_t i = 0; i < count;) {
        uint8_t code = frame[i++];
        if (!code || (uint16_t)(i + code - 1u) > count) return 0;
        for (uint8_t n = 1; n < code; n++) frame[size++] = frame[i++];
        if (i < count) frame[size++] = 0;
    }
    return size;
}
#endif
