/* Reads what the sender has: handsets with buttons, sliders and lamps, and texts that are ignored.
 * Each names a link that stands above or below it.
 * Whether the device takes what they send is checked later. */
#include <string.h>

#include "lexicon/read/reader.h"

static struct lex_handset *last_handset(struct statement *st)
{
    struct lexicon *lx = st->lx;
    if (lx->handsets->len) return lx->handsets->pdata[lx->handsets->len - 1];
    lex_fault(lx, g_array_index(st->tokens, struct token, 0).place,
              "it belongs to a handset; write 'handset NAME on LINK' before it");
    return NULL;
}

/* The text behind press, held, release or idle. */
static bool read_said(struct statement *st, char **text)
{
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_STRING) {
        lex_fault(st->lx, token->place, "expected the text that it sends, in quotes");
        return false;
    }
    g_free(*text);
    *text = g_strdup(token->text);
    return true;
}

/* handset NAME on LINK [repeat T] [idle "..."] */
void read_handset(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_handset *handset = g_new0(struct lex_handset, 1);
    handset->buttons = g_ptr_array_new_with_free_func(lex_button_free);
    handset->sliders = g_ptr_array_new_with_free_func(lex_slider_free);
    handset->lamps = g_ptr_array_new_with_free_func(lex_lamp_free);
    handset->place = statement_peek(st)->place;
    g_ptr_array_add(lx->handsets, handset);
    if (!(handset->name = statement_name(st, "the handset's name"))) return;
    if (!statement_take_word(st, "on")) {
        lex_fault(lx, statement_peek(st)->place, "expected 'on' and its link");
        return;
    }
    handset->place = statement_peek(st)->place;
    if (!(handset->link = statement_name(st, "its link"))) return;
    if (statement_take_word(st, "repeat") &&
        !statement_time(st, "the time between the repeats of a held button", 10, 60000,
                        &handset->repeat))
        return;
    if (statement_take_word(st, "idle") && !read_said(st, &handset->idle)) return;
    g_free(statement_title(st));
}

static bool button_press(struct statement *st, void *target)
{
    return read_said(st, &((struct lex_button *)target)->press);
}

static bool button_held(struct statement *st, void *target)
{
    return read_said(st, &((struct lex_button *)target)->held);
}

static bool button_release(struct statement *st, void *target)
{
    return read_said(st, &((struct lex_button *)target)->release);
}

static bool button_with(struct statement *st, void *target)
{
    struct lex_button *button = target;
    g_free(button->with);
    return (button->with = statement_name(st, "the button held down with it")) != NULL;
}

/* button NAME [press "..."] [held "..."] [release "..."] [with BUTTON] */
void read_button(struct statement *st)
{
    static const struct attribute known[] = {{"press", button_press, 0},
                                             {"held", button_held, 0},
                                             {"release", button_release, 0},
                                             {"with", button_with, 0},
                                             {NULL, NULL, 0}};
    struct lex_handset *handset = last_handset(st);
    if (!handset) return;
    struct lex_button *button = g_new0(struct lex_button, 1);
    g_ptr_array_add(handset->buttons, button);
    button->place = statement_peek(st)->place;
    if (!(button->name = statement_name(st, "the button's name"))) return;
    if (!statement_attributes(st, known, 0, statement_any_kind, "button", button)) return;
    g_free(statement_title(st));
}

/* slider NAME "feed {0..100 step 10}" */
void read_slider(struct statement *st)
{
    struct lex_handset *handset = last_handset(st);
    if (!handset) return;
    struct lex_slider *slider = g_new0(struct lex_slider, 1);
    g_ptr_array_add(handset->sliders, slider);
    slider->place = statement_peek(st)->place;
    if (!(slider->name = statement_name(st, "the slider's name"))) return;
    slider->text_place = statement_peek(st)->place;
    if (!read_said(st, &slider->text)) return;
    GPtrArray *texts = lex_step_texts(st->lx, slider->text_place, slider->text);
    if (texts) g_ptr_array_free(texts, TRUE);
    g_free(statement_title(st));
}

/* lamp NAME <= EVENT [WORD] */
void read_lamp(struct statement *st)
{
    struct lex_handset *handset = last_handset(st);
    if (!handset) return;
    struct lex_lamp *lamp = g_new0(struct lex_lamp, 1);
    g_ptr_array_add(handset->lamps, lamp);
    lamp->place = statement_peek(st)->place;
    if (!(lamp->name = statement_name(st, "the lamp's name"))) return;
    if (statement_take(st)->kind != TOKEN_FROM) {
        lex_fault(st->lx, lamp->place, "expected '<=' and the event that lights it");
        return;
    }
    if (!(lamp->event = statement_name(st, "the event that lights it"))) return;
    if (statement_peek(st)->kind == TOKEN_WORD) lamp->word = g_strdup(statement_take(st)->text);
    g_free(statement_title(st));
}

/* ignore "text" [on LINK] [reply "text"] */
void read_ignore(struct statement *st)
{
    struct lex_ignore *ignore = g_new0(struct lex_ignore, 1);
    g_ptr_array_add(st->lx->ignores, ignore);
    ignore->place = statement_peek(st)->place;
    lex_only_ascii(st->lx, statement_peek(st));
    if (!read_said(st, &ignore->text)) return;
    if (statement_take_word(st, "on")) {
        ignore->place = statement_peek(st)->place;
        if (!(ignore->link = statement_name(st, "the link where it arrives"))) return;
    }
    if (statement_take_word(st, "reply")) {
        lex_only_ascii(st->lx, statement_peek(st));
        if (!read_said(st, &ignore->reply)) return;
    }
    g_free(statement_title(st));
}

void lex_button_free(void *p)
{
    struct lex_button *button = p;
    g_free(button->name);
    g_free(button->press);
    g_free(button->held);
    g_free(button->release);
    g_free(button->with);
    g_free(button);
}

void lex_slider_free(void *p)
{
    g_free(((struct lex_slider *)p)->name);
    g_free(((struct lex_slider *)p)->text);
    g_free(p);
}

void lex_lamp_free(void *p)
{
    g_free(((struct lex_lamp *)p)->name);
    g_free(((struct lex_lamp *)p)->event);
    g_free(((struct lex_lamp *)p)->word);
    g_free(p);
}

void lex_handset_free(void *p)
{
    struct lex_handset *handset = p;
    g_free(handset->idle);
    g_ptr_array_free(handset->buttons, TRUE);
    g_ptr_array_free(handset->sliders, TRUE);
    g_ptr_array_free(handset->lamps, TRUE);
    g_free(handset->name);
    g_free(handset->link);
    g_free(handset);
}

void lex_ignore_free(void *p)
{
    g_free(((struct lex_ignore *)p)->text);
    g_free(((struct lex_ignore *)p)->link);
    g_free(((struct lex_ignore *)p)->reply);
    g_free(p);
}

/* ---- runs of texts ---- */

/* "feed {0..100 step 10}": its 11 texts. NULL after a fault. Owned by the caller. */
GPtrArray *lex_step_texts(struct lexicon *lx, struct lex_place place, const char *text)
{
    const char *open = strchr(text, '{'), *close = open ? strchr(open, '}') : NULL;
    const char *step = close ? strstr(open, " step ") : NULL;
    guint64 by = 0;
    if (!step || step > close) goto bad;
    char *body = g_strndup(open + 1, (gsize)(step - open - 1));
    char *digits = g_strndup(step + 6, (gsize)(close - step - 6));
    struct lex_element e = {.place = place};
    unsigned faults = lx->faults->len;
    bool ok = g_ascii_string_to_unsigned(digits, 10, 1, G_MAXINT32, &by, NULL);
    lex_read_range(lx, &e, body);
    g_free(body);
    g_free(digits);
    if (!ok || lx->faults->len != faults || e.form == LEX_TIME) {
        g_free(e.unit);
        goto bad;
    }
    GPtrArray *texts = g_ptr_array_new_with_free_func(g_free);
    for (int64_t value = e.low; value <= e.high && texts->len < 256; value += (int64_t)by) {
        char *number = lex_value_text(&e, (int32_t)value);
        g_ptr_array_add(texts,
                        g_strdup_printf("%.*s%s%s", (int)(open - text), text, number, close + 1));
        g_free(number);
    }
    g_free(e.unit);
    return texts;
bad:
    lex_fault(lx, place, "expected a value that goes in steps, like \"glow {0..100 step 10}\"");
    return NULL;
}
