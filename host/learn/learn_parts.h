/* What the files of host/learn share: framing.c cuts bytes into frames, envelope.c and layout.c
 * find what stands around them, gestures.c what was pressed, sliders.c what was slid. */
#ifndef LEARN_PARTS_H
#define LEARN_PARTS_H

#include "learn/learn.h"

struct frame {
    uint64_t at_us, end_us;
    GBytes *whole; /* without what ends it */
    GBytes *said;  /* without what stands around it */
    bool damaged;
    bool again; /* the same tag and text as the frame before: it was not answered */
};

static inline const struct frame *frame_at(const GPtrArray *frames, unsigned i)
{
    return (const struct frame *)frames->pdata[i];
}

/* Never NULL, also of no bytes. */
static inline const guint8 *learn_data(GBytes *bytes, size_t *count)
{
    const guint8 *data = (const guint8 *)g_bytes_get_data(bytes, count);
    return data ? data : (const guint8 *)"";
}

/* The count of bytes that most frames say, up to 254; how many of them do. */
unsigned learn_common_length(const GPtrArray *frames, unsigned *length);
/* Two uint64_t, for g_array_sort(). */
int learn_compare_us(const void *a, const void *b);

void learn_doubt(struct learnt *l, const char *format, ...) G_GNUC_PRINTF(2, 3);
void learnt_slider_free(void *slider);

/* Each finds it, or takes what is known from another recording; NULL: nothing is. */
void learn_framing(struct learnt *l, const struct learnt_framing *known);
void learn_envelope(struct learnt *l, const struct learnt_envelope *known);
void learn_layout(struct learnt *l, const struct learnt_layout *known);
void learn_gestures(struct learnt *l);
/* Whether its frames come at one and the same time apart, used or not. */
bool learn_is_stream(const struct learnt *l, uint64_t *every_us);
/* False: its bits are no channels. */
bool learn_sticks(struct learnt *l, uint64_t every_us);
/* The frames (struct frame *) of one slider. */
void learn_slider(struct learnt *l, const char *name, const GPtrArray *frames, unsigned times);
/* Whether these bytes are what the slider sends, at any value; and at which. */
bool learn_slid(const struct learnt_slider *s, GBytes *said, int32_t *value);
/* A text in quotes or bytes in hex, as a report and a lexicon have it. Owned by the caller. */
char *learn_shown(const struct learnt *l, GBytes *bytes);
/* The bytes as a text. Owned by the caller. */
char *learn_text(GBytes *bytes);
/* "glow {0..100 step 10}", or the same of bytes. Owned by the caller. */
char *learn_slides(const struct learnt *l, const struct learnt_slider *s);

/* commands.c: the commands that take some texts. */
struct commands {
    GPtrArray *patterns; /* struct pattern * */
    GPtrArray *queries;  /* char *: names */
    GPtrArray *odd;      /* char *: no texts of a command */
};
struct commands *commands_new(void);
void commands_free(struct commands *commands);
/* `slides`: the text of a slider, with its range in braces: "glow {0..100}". */
void commands_add(struct commands *commands, const char *text, bool slides);
void commands_put(const struct commands *commands, struct learnt *l, GString *out);

#endif
