/* Any sender's link: how bytes become frames, how a command is queued, what is told of it.
 * Put into NAME_LINK.c by sender.c, with the sender's own names, behind the retry client.
 * It knows no command. */
/* ---- the link ---- */

static bool hear_answer(struct rlx_sender_heard *heard, uint16_t request, struct heard h);
static bool hear_event(struct rlx_sender_heard *heard, struct heard h);
static enum rlx_sender_result queue(struct rlx_sender *s, struct line *line, uint16_t request,
                                    bool newest);

/* What stands around an answer. */
static struct heard heard_of(const char *text, uint8_t count)
{
    struct heard h;
    h.at = text;
    h.end = text + count;
    return h;
}

static void begin_heard(struct rlx_sender_heard *heard, uint16_t request, const char *text,
                        uint8_t count)
{
    heard->valued = heard->known = heard->confirmed = heard->repeated = false;
    heard->event = heard->number = heard->error = 0;
    heard->word = heard->at = 255;
    heard->waits_ms = 0;
    heard->request = (enum rlx_sender_request)request;
    heard->on = -1;
    heard->text = text;
    heard->count = count;
}

bool rlx_client_is_answer(void *user, uint16_t request, const char *text, uint8_t count)
{
    struct rlx_sender *s = (struct rlx_sender *)user;
    begin_heard(&s->heard, request, text, count);
    return hear_answer(&s->heard, request, heard_of(text, count));
}

bool rlx_client_is_event(void *user, const char *text, uint8_t count)
{
    struct rlx_sender *s = (struct rlx_sender *)user;
    begin_heard(&s->heard, 0, text, count);
    return hear_event(&s->heard, heard_of(text, count));
}

#if RLX_SENDER_CONFIRMS
/* Says that a confirmed event arrived; the device sends it again until it hears that. */
static void confirm(struct rlx_sender *s)
{
    struct line line;
    begin_line(&line);
    put_text(&line, ROM("got "));
    put_digits(&line, s->heard.number, 0);
    (void)queue(s, &line, RLX_SENDER_REQUEST_NONE, false);
}
#endif

static void on_report(void *user, enum rlx_delivery what, uint16_t tag, const char *text,
                      uint8_t count)
{
    struct rlx_sender *s = (struct rlx_sender *)user;
    (void)tag;
    if (what != RLX_CLIENT_EVENT && !s->client.request) return; /* a `got` is over */
    if (what != RLX_CLIENT_EVENT && what != RLX_CLIENT_ANSWERED) {
        begin_heard(&s->heard, s->client.request, text, count);
        s->heard.what = what == RLX_CLIENT_SENT      ? RLX_SENDER_SENT
                        : what == RLX_CLIENT_DROPPED ? RLX_SENDER_DROPPED
                                                     : RLX_SENDER_UNANSWERED;
    }
#if RLX_SENDER_CONFIRMS
    if (s->heard.what == RLX_SENDER_EVENT && s->heard.confirmed) {
        uint16_t now = (uint16_t)((unsigned)s->heard.event << 8 | s->heard.number);
        confirm(s);
        s->heard.repeated = s->confirmed == now;
        s->confirmed = now;
    }
#endif
    struct rlx_sender_heard heard = s->heard;
    rlx_sender_on_heard(s, &heard);
}

#if RLX_SENDER_BYTES
/* The text of a command goes out as the bytes of its row, behind a silence where that is what ends
 * the frame before it. */
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *packet, uint8_t count)
{
    struct rlx_sender *s = (struct rlx_sender *)port;
    uint8_t frame[RLX_SENDER_LONGEST], row = 0, size;
    (void)link;
    if ((int32_t)(s->now - s->free) < 0) return false;
    size = to_bytes(heard_of((const char *)packet, count), s->number & RLX_SENDER_NUMBERS, frame,
                    &row);
#if RLX_SENDER_STUFFED || RLX_SENDER_COBS
    uint8_t wrapped[RLX_SENDER_WRAPPED];
    size = wrap(frame, size, wrapped);
    if (!rlx_sender_on_write(s, wrapped, size)) return false;
#else
    if (!rlx_sender_on_write(s, frame, size)) return false;
#endif
    s->row = row;
    s->awaited = s->number++ & RLX_SENDER_NUMBERS;
    s->free = s->now + RLX_SENDER_SILENCE_MS + size * RLX_SENDER_BYTE_US / 1000u;
    return true;
}
#else
bool rlx_port_packet_send(void *port, uint8_t link, const uint8_t *packet, uint8_t count)
{
    (void)link;
    return rlx_sender_on_write((struct rlx_sender *)port, packet, count);
}
#endif

#if RLX_CLIENT_SEAL
static const uint8_t key_senders[RLX_SENDER_KEYS] = RLX_SENDER_KEY_SENDERS;

static uint8_t length_of(const char *text)
{
    uint8_t n = 0;
    while (text && text[n] && n < 255) n++;
    return n;
}
#endif

int rlx_sender_init(RLX_SENDER_INIT)
{
#if RLX_CLIENT_SEAL
    if ((unsigned)key - 1u >= RLX_SENDER_KEYS) return RLX_SENDER_OUT_OF_RANGE;
    s->client.key = text;
    s->client.key_count = length_of(text);
    s->client.key_number = (uint8_t)key;
    s->client.context = RLX_SENDER_CONTEXT;
    s->client.key_to_all = key == 1 ? 0 : s->key_to_all;
    s->client.key_to_all_count = length_of(s->client.key_to_all);
    s->client.key_to_all_number = 1;
    s->client.halt_sealed = RLX_SENDER_HALT_SEALED;
    s->client.random = random;
#endif
    s->client.port = s;
    s->client.user = s;
    s->client.report = on_report;
    s->client.queue = s->queue;
    s->client.queue_size = RLX_SENDER_QUEUE;
    s->client.to = RLX_SENDER_ADDRESS;
    s->client.from = RLX_SENDER_SOURCE;
    s->client.one_way = RLX_SENDER_SILENT;
    s->client.fixed = RLX_SENDER_FILLED;
    s->client.check = RLX_CLIENT_CHECK;
    s->client.no_address = RLX_CLIENT_NO_ADDRESS;
    s->client.no_source = RLX_CLIENT_NO_SOURCE;
    s->client.no_tags = RLX_CLIENT_NO_TAGS;
    s->client.tries = RLX_SENDER_TRIES;
    s->client.pause_ms = RLX_SENDER_PAUSE_MS;
    s->client.window_ms = RLX_SENDER_WINDOW_MS;
    s->client.link = 0;
    s->client.all = false;
    s->client.sent = s->client.damaged = 0;
    s->client.first = s->client.waiting = s->client.tried = s->client.renewed = 0;
    s->confirmed = 0;
#if RLX_SENDER_BYTES
    s->number = s->awaited = 0;
    s->row = 0;
    s->now = s->free = 0;
#endif
#if !RLX_SENDER_WHOLE
    s->received = s->looked = 0;
    s->overflow = false;
#endif
    return rlx_client_init(&s->client, RLX_SENDER_START) ? RLX_SENDER_OUT_OF_RANGE
                                                         : RLX_SENDER_QUEUED;
}

#if RLX_SENDER_BYTES
/* Takes all that can be read of these bytes. What is none of it is passed over, byte by byte, where
 * several frames can stand behind each other. */
static void take_bytes(struct rlx_sender *s, uint8_t *bytes, uint8_t count, bool several)
{
    const struct rlx_client_command *first = &s->queue[s->client.first];
    while (count) {
        struct told told;
        uint8_t used = to_text(bytes, count, s->row, s->awaited,
                               heard_of(first->text, s->client.waiting ? first->count : 0), &told);
        bool whole = used && (several || used == count);
        if (whole) rlx_client_receive(&s->client, (const uint8_t *)told.text, told.count);
        if (!whole && s->client.damaged != UINT16_MAX) s->client.damaged++;
        if (!several) return;
        if (!whole) used = 1;
        bytes += used;
        count = (uint8_t)(count - used);
    }
}
#endif

#if RLX_SENDER_BYTES && RLX_SENDER_SILENCE_MS
/* Frames that are complete, however slowly their bytes came. */
static void take_ready(struct rlx_sender *s)
{
    struct told told;
    uint8_t used = 1;
    while (s->received && used) {
        const struct rlx_client_command *first = &s->queue[s->client.first];
        used = to_text(s->frame, s->received, s->row, s->awaited,
                       heard_of(first->text, s->client.waiting ? first->count : 0), &told);
        if (used) rlx_client_receive(&s->client, (const uint8_t *)told.text, told.count);
        for (uint8_t i = used; used && i < s->received; i++) s->frame[i - used] = s->frame[i];
        s->received = (uint8_t)(s->received - used);
    }
}
#endif

#if !RLX_SENDER_WHOLE
/* What was received of a frame is all of it. */
static void frame_over(struct rlx_sender *s)
{
    uint8_t from = 0, count = s->received;
    s->received = 0;
    if (s->overflow) {
        s->overflow = false;
        if (s->client.damaged != UINT16_MAX) s->client.damaged++;
        return;
    }
#if RLX_SENDER_PADDED
    while (count && s->frame[count - 1] == RLX_CLIENT_PAD) count--;
#endif
#if RLX_SENDER_KEYED
    if (!count || s->frame[0] != '<') return; /* every answer begins so */
    from = 1;
#endif
#if RLX_SENDER_BYTES
#if RLX_SENDER_STUFFED || RLX_SENDER_COBS
    take_bytes(s, s->frame, unwrap(s->frame, count), false);
#else
    take_bytes(s, s->frame, count, true);
#endif
    (void)from;
#else
    if (count > from) rlx_client_receive(&s->client, s->frame + from, (uint8_t)(count - from));
#endif
}

static void collect(struct rlx_sender *s, uint8_t byte)
{
    if (s->received < RLX_SENDER_FRAME)
        s->frame[s->received++] = byte;
    else
        s->overflow = true;
}
#endif

void rlx_sender_receive(struct rlx_sender *s, const uint8_t *bytes, uint16_t count)
{
#if RLX_SENDER_WHOLE && RLX_SENDER_BYTES
    uint8_t packet[RLX_SENDER_FRAME];
    if (count > sizeof packet) return;
    for (uint8_t i = 0; i < count; i++) packet[i] = bytes[i];
    take_bytes(s, packet, (uint8_t)count, false);
#elif RLX_SENDER_WHOLE
    if (count <= 255) rlx_client_receive(&s->client, bytes, (uint8_t)count);
#else
    for (; count; count--, bytes++) {
        if (is_end(*bytes))
            frame_over(s);
        else
            collect(s, *bytes);
#if RLX_SENDER_PADDED
        if (s->received == RLX_SENDER_FILLED) frame_over(s);
#endif
    }
#if RLX_SENDER_BYTES && RLX_SENDER_SILENCE_MS
    take_ready(s);
#endif
#endif
}

uint32_t rlx_sender_poll(struct rlx_sender *s, uint32_t now_ms)
{
#if RLX_SENDER_BYTES
    s->now = now_ms;
#endif
    uint32_t wait = rlx_client_poll(&s->client, now_ms);
#if RLX_SENDER_GAP_MS
    /* a silence ends a frame, or drops half of one */
    if (s->received != s->looked) {
        s->looked = s->received;
        s->since = now_ms;
    }
    if (s->received && now_ms - s->since >= RLX_SENDER_GAP_MS) {
#if RLX_SENDER_PADDED
        s->received = 0;
#else
        frame_over(s);
        wait = rlx_client_poll(&s->client, now_ms);
#endif
        s->looked = 0;
    }
    if (s->received && wait > RLX_SENDER_GAP_MS) wait = RLX_SENDER_GAP_MS;
#endif
    return wait;
}

#if RLX_SENDER_KEYED
/* Puts the key or code in the place of the text that it stands for: key, text, key, text. The '#'
 * of a code are the digits of the number in its text. False: there is none. */
static bool put_key(struct line *line)
{
    rom_text at = keys;
    while (ROM_CHAR(at)) {
        rom_text key = at;
        struct heard h = heard_of(line->text, line->count);
        int32_t number = 0, most = 0;
        uint8_t count = 0;
        bool same = true;
        for (; ROM_CHAR(at); at++, count++)
            if (ROM_CHAR(at) == '#') most = most * 10 + 9;
        at++;
        for (char c, before = 0; (c = ROM_CHAR(at)) != 0; before = c, at++) {
            if (c != '#')
                same = same && take_char(&h, c);
            else if (before != '#')
                same = same && take_whole(&h, 0, most, &number);
        }
        at++;
        if (!same || !is_over(&h)) continue;
        line->count = count;
        line->text[count] = 0;
        while (count--) {
            char c = ROM_CHAR(key + count);
            if (c == '#') {
                c = (char)('0' + number % 10);
                number /= 10;
            }
            line->text[count] = c;
        }
        return true;
    }
    return false;
}
#endif

/* Takes the last one out of the queue if it is the same request and was never sent. */
static bool overtake(struct rlx_sender *s, uint16_t request)
{
    uint16_t last = (uint16_t)((unsigned)s->client.first + s->client.waiting - 1u);
    if (s->client.waiting <= (s->client.tried ? 1 : 0)) return false;
    if (last >= RLX_SENDER_QUEUE) last = (uint16_t)(last - RLX_SENDER_QUEUE);
    if (s->queue[last].request != request) return false;
    s->client.waiting--;
    return true;
}

/* Queues a request; `newest`: in the place of one that waits right before it, which is told. */
static enum rlx_sender_result queue(struct rlx_sender *s, struct line *line, uint16_t request,
                                    bool newest)
{
    if (line->result) return line->result;
#if RLX_SENDER_KEYED
    if (!put_key(line)) {
#if RLX_SENDER_LEAD
        struct line led;
        begin_line(&led);
        put_char(&led, RLX_SENDER_LEAD_CHARACTER);
        for (uint8_t i = 0; i < line->count; i++) put_char(&led, line->text[i]);
        put_char(&led, '\r');
        if (led.result) return led.result;
        *line = led;
#else
        return RLX_SENDER_NO_KEY;
#endif
    }
#endif
#if RLX_SENDER_CODED
    struct line coded;
    begin_line(&coded);
    for (const char *c = s->code; c && *c; c++) put_char(&coded, *c);
    put_char(&coded, ' ');
    for (uint8_t i = 0; i < line->count; i++) put_char(&coded, line->text[i]);
    if (coded.result) return coded.result;
    *line = coded;
#endif
#if RLX_SENDER_BYTES
    {
        uint8_t frame[RLX_SENDER_LONGEST], row;
        if (!to_bytes(heard_of(line->text, line->count), 0, frame, &row)) return RLX_SENDER_NO_KEY;
    }
#endif
    bool dropped = newest && overtake(s, request);
    s->client.request_next = request;
    if (rlx_client_send(&s->client, line->text)) return RLX_SENDER_QUEUE_FULL;
    if (dropped) {
        struct rlx_sender_heard heard;
        begin_heard(&heard, request, "", 0);
        heard.what = RLX_SENDER_DROPPED;
        rlx_sender_on_heard(s, &heard);
    }
    return RLX_SENDER_QUEUED;
}

enum rlx_sender_result rlx_sender_send_text(struct rlx_sender *s, const char *text)
{
    struct line line;
    begin_line(&line);
    for (; *text; text++) {
        if (is_end((uint8_t)*text) || (uint8_t)*text < ' ') line.result = RLX_SENDER_BAD_TEXT;
        put_char(&line, *text);
    }
    return queue(s, &line, RLX_SENDER_REQUEST_TEXT, false);
}
