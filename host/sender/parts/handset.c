/* Any handset: debounces its buttons, repeats what is held, follows its sliders.
 * Put into NAME_HANDSET.c by handset.c, with the handset's own names.
 * What each says is made from the lexicon. */
static inline bool is_idle(const struct rlx_handset *h)
{
    return !h->sender.client.waiting;
}

static void sooner(uint32_t *wait, uint32_t ms)
{
    if (ms < *wait) *wait = ms;
}

#if RLX_HANDSET_BUTTON_COUNT
/* ---- buttons ---- */

enum { PRESS = 1, RELEASE = 2 };

/* What a press or release begins. A button that is pressed anew before its release went out was
 * never released for the device. */
static void button_changed(struct rlx_handset *h, uint8_t i, uint32_t now)
{
    if (h->button[i].down) {
        h->button[i].row = row_of(h, i);
        h->button[i].due = PRESS;
        h->button[i].repeat = now + RLX_HANDSET_REPEAT_MS;
    } else {
        h->button[i].due = (uint8_t)(h->button[i].due | RELEASE);
    }
}

/* Sends what is due of it, in order; what finds no room waits. */
static void button_says(struct rlx_handset *h, uint8_t i, uint32_t now, uint32_t *wait)
{
    uint8_t row = h->button[i].row;
    if (h->button[i].due & PRESS && say(h, row, SAYS_PRESS))
        h->button[i].due = (uint8_t)(h->button[i].due & ~PRESS);
    if (h->button[i].due == RELEASE && say(h, row, SAYS_RELEASE)) h->button[i].due = 0;
    if (!h->button[i].down || h->button[i].due || !RLX_HANDSET_REPEAT_MS || !has_held(row)) return;
    if ((int32_t)(now - h->button[i].repeat) >= 0) {
        /* the one before was answered, and no other button says something else meanwhile */
        if (is_idle(h) && !is_beside(h, i)) (void)say(h, row, SAYS_HELD);
        h->button[i].repeat = now + RLX_HANDSET_REPEAT_MS;
    }
    sooner(wait, h->button[i].repeat - now);
}

static void poll_button(struct rlx_handset *h, uint8_t i, uint32_t now, uint32_t *wait)
{
    bool raw = rlx_handset_on_button(h, (enum rlx_handset_button)i);
    if (raw != h->button[i].raw) {
        h->button[i].raw = raw;
        h->button[i].since = now;
    }
    if (raw != h->button[i].down) {
        uint32_t age = now - h->button[i].since;
        if (age >= RLX_HANDSET_DEBOUNCE_MS) {
            h->button[i].down = raw;
            button_changed(h, i, now);
        } else {
            sooner(wait, RLX_HANDSET_DEBOUNCE_MS - age);
        }
    }
    button_says(h, i, now, wait);
}
#endif

#if RLX_HANDSET_BUTTON_COUNT && RLX_HANDSET_IDLE
/* Sends what it sends when no button is down any more, behind all releases. */
static void poll_idle(struct rlx_handset *h)
{
    bool idle = true;
    for (uint8_t i = 0; i < RLX_HANDSET_BUTTON_COUNT; i++)
        idle = idle && !h->button[i].down && !h->button[i].due;
    if (!idle)
        h->idle = false;
    else if (!h->idle)
        h->idle = say(h, RLX_HANDSET_ROWS, SAYS_PRESS);
}
#endif

#if RLX_HANDSET_SLIDER_COUNT
/* ---- sliders ---- */

/* The step at this place; one that is left only by a quarter of a step is kept. */
static uint16_t step_at(uint16_t steps, uint16_t step, uint16_t place)
{
    uint32_t at = (uint32_t)place * steps; /* in 65536ths of a step */
    uint32_t low = (uint32_t)step << 16, high = low + 65536u, quarter = 16384;
    if (step < steps && at + quarter >= low && at < high + quarter) return step;
    return (uint16_t)(at >> 16);
}

/* It says where it is when it was moved, and the command before is over: the newest counts. */
static void poll_slider(struct rlx_handset *h, uint8_t i, uint32_t *wait)
{
    uint16_t place = rlx_handset_on_slider(h, (enum rlx_handset_slider)i);
    uint16_t before = h->slider[i].step, step = step_at(steps_of(i), before, place);
    bool first = before == UINT16_MAX;
    if (first) h->slider[i].sent = step; /* as it stands when it is switched on */
    h->slider[i].step = step;
    if (step != h->slider[i].sent && is_idle(h) && say_step(h, i, step)) h->slider[i].sent = step;
    sooner(wait, RLX_HANDSET_SAMPLE_MS);
}
#endif

/* ---- the whole ---- */

uint32_t rlx_handset_poll(struct rlx_handset *h, uint32_t now_ms)
{
    uint32_t wait = UINT32_MAX, other;
#if RLX_HANDSET_BUTTON_COUNT
    for (uint8_t i = 0; i < RLX_HANDSET_BUTTON_COUNT; i++) poll_button(h, i, now_ms, &wait);
#endif
#if RLX_HANDSET_BUTTON_COUNT && RLX_HANDSET_IDLE
    poll_idle(h);
#endif
#if RLX_HANDSET_SLIDER_COUNT
    for (uint8_t i = 0; i < RLX_HANDSET_SLIDER_COUNT; i++) poll_slider(h, i, &wait);
#endif
    other = rlx_sender_poll(&h->sender, now_ms);
    sooner(&wait, other);
    return wait;
}

void rlx_handset_receive(struct rlx_handset *h, const uint8_t *bytes, uint16_t count)
{
    rlx_sender_receive(&h->sender, bytes, count);
}

bool rlx_sender_on_write(struct rlx_sender *s, const uint8_t *bytes, uint8_t count)
{
    return rlx_handset_on_write((struct rlx_handset *)s->user, bytes, count);
}

void rlx_sender_on_heard(struct rlx_sender *s, const struct rlx_sender_heard *heard)
{
    struct rlx_handset *h = (struct rlx_handset *)s->user;
    if (heard->what == RLX_SENDER_EVENT) light_lamps(h, heard);
    rlx_handset_on_heard(h, heard);
}

int rlx_handset_init(RLX_HANDSET_INIT)
{
#if RLX_HANDSET_BUTTON_COUNT
    for (uint8_t i = 0; i < RLX_HANDSET_BUTTON_COUNT; i++) {
        h->button[i].raw = h->button[i].down = false;
        h->button[i].due = h->button[i].row = 0;
        h->button[i].since = h->button[i].repeat = 0;
    }
#endif
#if RLX_HANDSET_BUTTON_COUNT && RLX_HANDSET_IDLE
    h->idle = true;
#endif
#if RLX_HANDSET_SLIDER_COUNT
    for (uint8_t i = 0; i < RLX_HANDSET_SLIDER_COUNT; i++)
        h->slider[i].step = h->slider[i].sent = UINT16_MAX;
#endif
    h->sender.user = h;
    return RLX_HANDSET_BEGIN;
}
