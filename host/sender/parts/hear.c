/* Any sender's reader: numbers, words and texts of an answer, and what stands behind it.
 * Put into NAME_LINK.c by sender.c, with the sender's own names.
 * It knows no command. */
/* ---- what is received ---- */

/* What is left of a frame. */
struct heard {
    const char *at, *end;
};

static inline bool is_over(const struct heard *h)
{
    return h->at == h->end;
}

static inline bool take_char(struct heard *h, char c)
{
    if (is_over(h) || *h->at != c) return false;
    h->at++;
    return true;
}

/* All of the text, or nothing. */
static inline bool take_text(struct heard *h, rom_text text)
{
    const char *at = h->at;
    for (char c; (c = ROM_CHAR(text)) != 0; text++, at++)
        if (at == h->end || *at != c) return false;
    h->at = at;
    return true;
}

/* All of it is this text, and nothing else. */
static inline bool begins(struct heard h, rom_text text)
{
    return take_text(&h, text);
}

static inline bool is_text(struct heard h, rom_text text)
{
    return take_text(&h, text) && is_over(&h);
}

static inline bool is_digit(const struct heard *h)
{
    return !is_over(h) && *h->at >= '0' && *h->at <= '9';
}

/* A number with so many digits behind the point. */
static inline bool take_decimal(struct heard *h, int32_t low, int32_t high, uint8_t decimals,
                                int32_t *value)
{
    struct heard r = *h;
    bool minus = take_char(&r, '-');
    uint32_t sum = 0;
    uint8_t behind = 0;
    if (!is_digit(&r)) return false;
    while (is_digit(&r) || (decimals && !behind && !is_over(&r) && *r.at == '.')) {
        if (*r.at == '.') {
            behind = 1;
            r.at++;
            continue;
        }
        uint8_t digit = (uint8_t)(*r.at++ - '0');
        if (sum > (2147483647u - digit) / 10u) return false;
        sum = sum * 10u + digit;
        if (behind && behind++ > decimals) return false;
    }
    if (decimals && behind != decimals + 1) return false;
    *value = minus ? -(int32_t)sum : (int32_t)sum;
    if (*value < low || *value > high) return false;
    *h = r;
    return true;
}

static inline bool take_whole(struct heard *h, int32_t low, int32_t high, int32_t *value)
{
    return take_decimal(h, low, high, 0, value);
}

static inline bool take_hex(struct heard *h, int32_t low, int32_t high, int32_t *value)
{
    struct heard r = *h;
    uint32_t sum = 0;
    uint8_t digits = 0;
    if (!take_text(&r, ROM("0x"))) return false;
    for (; !is_over(&r); r.at++, digits++) {
        uint8_t c = (uint8_t)*r.at;
        uint8_t digit = (uint8_t)(c >= '0' && c <= '9'   ? c - '0'
                                  : c >= 'A' && c <= 'F' ? c - 'A' + 10
                                                         : 16);
        if (digit > 15) break;
        if (digits == 8) return false;
        sum = sum << 4 | digit;
    }
    *value = (int32_t)sum;
    if (!digits || sum > 2147483647u || *value < low || *value > high) return false;
    *h = r;
    return true;
}

/* With its unit, in milliseconds. */
static inline bool take_time(struct heard *h, int32_t low, int32_t high, int32_t *value)
{
    struct heard r = *h;
    uint32_t step;
    if (!take_whole(&r, 0, 2147483647, value)) return false;
    if (take_text(&r, ROM("ms")))
        step = 1;
    else if (take_text(&r, ROM("min")))
        step = 60000;
    else if (take_char(&r, 's'))
        step = 1000;
    else if (take_char(&r, 'h'))
        step = 3600000;
    else
        return false;
    if ((uint32_t)*value > 2147483647u / step) return false;
    *value = (int32_t)((uint32_t)*value * step);
    if (*value < low || *value > high) return false;
    *h = r;
    return true;
}

/* The number of the longest of so many words. */
static inline bool take_word(struct heard *h, uint16_t most, rom_text words, uint16_t *number)
{
    const char *best = h->at;
    *number = 0;
    for (uint16_t i = 0; i < most; i++) {
        struct heard r = *h;
        if (take_text(&r, words) && r.at > best) {
            best = r.at;
            *number = i;
        }
        while (ROM_CHAR(words++)) {}
    }
    if (best == h->at) return false;
    h->at = best;
    return true;
}

/* A bit for each word. */
static inline bool take_words(struct heard *h, uint16_t most, rom_text words, uint16_t *bits)
{
    uint16_t number;
    *bits = 0;
    if (take_text(h, ROM("none"))) return true;
    do {
        if (!take_word(h, most, words, &number)) return false;
        *bits = (uint16_t)(*bits | 1u << number);
    } while (take_char(h, '+'));
    return true;
}

/* So many bytes, up to this character or the end. */
static inline bool take_until(struct heard *h, char end, uint16_t least, uint16_t most,
                              const char **text, uint8_t *count)
{
    *text = h->at;
    while (!is_over(h) && !(end && *h->at == end)) h->at++;
    *count = (uint8_t)(h->at - *text);
    return *count >= least && *count <= most;
}

static inline bool take_quoted(struct heard *h, uint16_t least, uint16_t most, const char **text,
                               uint8_t *count)
{
    return take_char(h, '"') && take_until(h, '"', least, most, text, count) && take_char(h, '"');
}

/* on or off, in the place of `toggle` or behind it. */
static inline bool take_switched(struct heard *h)
{
    return take_text(h, ROM("on")) || take_text(h, ROM("off"));
}

static inline void note_switched(struct rlx_sender_heard *heard, struct heard h)
{
    struct heard behind = h;
    if (take_switched(&behind) && (is_over(&behind) || *behind.at == ' '))
        heard->on = behind.at - h.at == 2 ? 1 : 0;
}

/* " already", " waiting 200ms", what a toggle led to: what can stand behind an answer. */
static inline bool hear_end(struct rlx_sender_heard *heard, struct heard h)
{
    int32_t number;
    struct heard behind = h;
    if (take_char(&behind, ' ') && take_switched(&behind)) {
        heard->on = behind.at - h.at == 3 ? 1 : 0;
        h = behind;
    }
    if (take_text(&h, ROM(" already"))) heard->what = RLX_SENDER_ALREADY;
    if (take_text(&h, ROM(" waiting "))) {
        if (!take_whole(&h, 0, 2147483647, &number) || !take_text(&h, ROM("ms"))) return false;
        heard->waits_ms = (uint32_t)number;
    }
    heard->valued = true;
    return is_over(&h);
}

/* " at 5" at the end: at which byte. */
static inline void hear_place(struct rlx_sender_heard *heard, struct heard h)
{
    int32_t number;
    for (; !is_over(&h); h.at++) {
        struct heard r = h;
        if (take_text(&r, ROM(" at ")) && take_whole(&r, 0, 254, &number) && is_over(&r))
            heard->at = (uint8_t)number;
    }
}

/* err range level 0..100 at 5, or e7. */
static bool hear_refused(struct rlx_sender_heard *heard, struct heard h)
{
    uint16_t word;
    int32_t number;
    heard->what = RLX_SENDER_REFUSED;
    heard->error = RLX_SENDER_ERR_OTHER;
    heard->at = 255;
    if (take_text(&h, ROM("err "))) {
        if (take_word(&h, RLX_SENDER_ERRORS, RLX_SENDER_ERROR_NAMES, &word))
            heard->error = (uint8_t)(word + 1);
#if RLX_SENDER_REASONS
        else if (take_word(&h, RLX_SENDER_REASONS, RLX_SENDER_REASON_NAMES, &word))
            heard->error = (uint8_t)(word + RLX_SENDER_FIRST_REASON);
#endif
        hear_place(heard, h);
        return true;
    }
    if (!take_char(&h, 'e') || !take_whole(&h, 1, 63, &number)) return false;
    heard->error = (uint8_t)number;
    return is_over(&h) || *h.at == ' ';
}
