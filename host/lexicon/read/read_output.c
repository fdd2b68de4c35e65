#include "reader.h"

#include <string.h>

/* 50Hz, 1kHz, 20kHz */
static bool read_frequency(struct statement *st, uint32_t *hz)
{
    struct token *token = statement_peek(st);
    guint64 number = 0;
    char *unit = NULL;
    if (token->kind == TOKEN_WORD && g_ascii_isdigit(token->text[0]))
        number = g_ascii_strtoull(token->text, &unit, 10);
    guint64 scale = !unit ? 0 : !strcmp(unit, "Hz") ? 1 : !strcmp(unit, "kHz") ? 1000 : 0;
    if (!scale || number < 1 || number > 1000000 / scale) {
        lex_fault(st->lx, token->place,
                  "expected a frequency of 1Hz..1000kHz with its unit, like 1kHz");
        return false;
    }
    st->next++;
    *hz = (uint32_t)(number * scale);
    return true;
}

/* on, off, 0%..100% */
static bool read_safe(struct statement *st, struct lex_output *out)
{
    out->safe_told = true;
    struct token *token = statement_peek(st);
    guint64 percent;
    char *end;
    if (statement_take_word(st, "on")) {
        out->safe = 100;
        return true;
    }
    if (statement_take_word(st, "off")) {
        out->safe = 0;
        return true;
    }
    if (token->kind == TOKEN_WORD && g_ascii_isdigit(token->text[0])) {
        percent = g_ascii_strtoull(token->text, &end, 10);
        bool level_ok = out->pwm || percent == 0 || percent == 100;
        if ((!*end || !strcmp(end, "%")) && percent <= 100 && level_ok) {
            st->next++;
            out->safe = (unsigned)percent;
            return true;
        }
    }
    lex_fault(st->lx, token->place,
              out->pwm ? "expected the safe state: on, off or 0%%..100%%"
                       : "expected the safe state: on or off");
    return false;
}

static bool read_active(struct statement *st, struct lex_output *out)
{
    struct token *token = statement_peek(st);
    out->active_low = statement_take_word(st, "low");
    if (out->active_low || statement_take_word(st, "high")) return true;
    lex_fault(st->lx, token->place, "expected 'low' or 'high' after 'active'");
    return false;
}

static bool read_pwm(struct statement *st, struct lex_output *out)
{
    out->pwm = true;
    if (!statement_number(st, "a PWM channel", 0, 255, &out->pin)) return false;
    if (!statement_take_word(st, "at")) {
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected 'at' and the PWM frequency, like: at 1kHz");
        return false;
    }
    return read_frequency(st, &out->hz);
}

/* One attribute; false after a fault. *placed becomes true at a pin or channel. */
static bool read_attribute(struct statement *st, struct lex_output *out, bool *placed)
{
    static const char *const known[] = {"pin", "pwm", "active", "safe", NULL};
    struct token *token = statement_take(st);
    const char *word = token->kind == TOKEN_WORD ? token->text : "";
    if (!strcmp(word, "pin") || !strcmp(word, "pwm")) {
        if (*placed) {
            lex_fault(st->lx, token->place, "'%s' has its pin already", out->name);
            return false;
        }
        *placed = true;
        if (!strcmp(word, "pin")) return statement_number(st, "a pin", 0, 255, &out->pin);
        if (out->kind == LEX_LED) return read_pwm(st, out);
        lex_fault(st->lx, token->place, "a relay is on or off; a level by PWM needs an led");
        return false;
    }
    if (!strcmp(word, "active")) return read_active(st, out);
    if (!strcmp(word, "safe")) return read_safe(st, out);
    char *near = lex_did_you_mean(word, known);
    lex_fault(st->lx, token->place, "expected pin, pwm, active, safe or a \"title\"%s", near);
    g_free(near);
    return false;
}

static bool read_kind(struct statement *st, struct lex_output *out)
{
    static const char *const known[] = {"relay", "led", NULL};
    struct token *token = statement_peek(st);
    if (statement_take_word(st, "relay")) {
        out->kind = LEX_RELAY;
        return true;
    }
    if (statement_take_word(st, "led")) {
        out->kind = LEX_LED;
        return true;
    }
    char *near = lex_did_you_mean(token->text ? token->text : "", known);
    lex_fault(st->lx, token->place, "expected what it is: relay or led%s", near);
    g_free(near);
    return false;
}

/* output NAME relay|led  pin N | pwm N at F  [active low|high] [safe STATE] ["title"] */
void read_output(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_output *out = g_new0(struct lex_output, 1);
    bool placed = false;
    out->place = statement_peek(st)->place;
    out->name = statement_name(st, "the output's name");
    if (out->name && lexicon_output_index(lx, out->name) >= 0)
        lex_fault(lx, out->place, "a second output '%s'", out->name);
    if (!out->name) {
        g_free(out);
        return;
    }
    g_ptr_array_add(lx->outputs, out); /* also where a fault follows: others may name it */
    if (lx->outputs->len == 256) lex_fault(lx, out->place, "more than 255 outputs");
    if (!read_kind(st, out)) return;
    while (statement_peek(st)->kind == TOKEN_WORD)
        if (!read_attribute(st, out, &placed)) return;
    g_free(statement_title(st));
    if (!placed)
        lex_fault(lx, out->place, "'%s' has no pin; write 'pin N'%s", out->name,
                  out->kind == LEX_LED ? " or 'pwm N at 1kHz'" : "");
}
