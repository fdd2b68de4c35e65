/* Finds what stands around the texts of a sender: address, source, tag and check.
 * By the form of docs/lexicon.md; where most frames have a check, one without it is damaged.
 * Other envelopes than this one are part of the text. */
#include "lexicon/envelope.h"

#include <string.h>

#include "learn/learn_parts.h"

/* What one text has around it. */
struct around {
    int address, source, tag; /* -1: none */
    bool checked;
    const char *inside;
    size_t length;
};

static int number_at(const char **at)
{
    int value = 0;
    const char *from = *at;
    while (g_ascii_isdigit(**at) && *at - from < 6) value = value * 10 + (*(*at)++ - '0');
    return *at == from ? -1 : value;
}

static struct around read_around(const char *text)
{
    struct around a = {-1, -1, -1, envelope_is_checked(text), text, 0};
    const char *at = text, *end = text + strlen(text) - (a.checked ? ENVELOPE_CHECK : 0);
    if (*at == '@') {
        at++;
        a.address = number_at(&at);
        if (*at == '/') at++, a.source = number_at(&at);
        if (a.address >= 0 && *at == ' ')
            a.inside = ++at;
        else
            a.address = a.source = -1, at = text;
    }
    if (*at == '#') {
        at++;
        a.tag = number_at(&at);
        if (a.tag >= 0 && *at == ' ')
            a.inside = ++at;
        else
            a.tag = -1;
    }
    a.length = end > a.inside ? (size_t)(end - a.inside) : 0;
    return a;
}

/* How many frames have it: three of five make it a rule. */
struct counted {
    unsigned of, address, source, tag, check;
};

static struct counted count_all(const struct learnt *l, struct around *usual)
{
    struct counted n = {0};
    for (unsigned i = 0; i < l->frames->len; i++) {
        char *text = learn_text(frame_at(l->frames, i)->whole);
        struct around a = read_around(text);
        n.of++;
        n.address += a.address >= 0;
        n.source += a.source >= 0;
        n.tag += a.tag >= 0;
        n.check += a.checked;
        if (a.address >= 0) usual->address = a.address;
        if (a.source >= 0) usual->source = a.source;
        g_free(text);
    }
    return n;
}

static bool is_rule(unsigned has, unsigned of)
{
    return has && has * 5 >= of * 3;
}

static void take_off(struct learnt *l, struct frame *f)
{
    char *text = learn_text(f->whole);
    struct around a = read_around(text);
    const struct learnt_envelope *e = &l->envelope;
    bool fits =
        (!e->check || a.checked) && (e->address < 0 || a.address >= 0) && (!e->tags || a.tag >= 0);
    f->damaged |= !fits || !a.length;
    l->envelope.fit += fits;
    l->envelope.of++;
    if (fits) {
        g_bytes_unref(f->said);
        f->said = g_bytes_new(a.inside, a.length);
    }
    g_free(text);
}

static void find(struct learnt *l)
{
    struct around usual = {.address = -1, .source = -1};
    struct counted n = count_all(l, &usual);
    struct learnt_envelope *e = &l->envelope;
    *e = (struct learnt_envelope){-1, -1, is_rule(n.tag, n.of), is_rule(n.check, n.of), 0, 0};
    if (is_rule(n.address, n.of)) e->address = usual.address;
    if (is_rule(n.source, n.of)) e->source = usual.source;
}

void learn_envelope(struct learnt *l, const struct learnt_envelope *known)
{
    struct learnt_envelope *e = &l->envelope;
    if (known)
        *e = (struct learnt_envelope){
            known->address, known->source, known->tags, known->check, 0, 0};
    else
        find(l);
    if (e->address < 0 && !e->tags && !e->check) return;
    const struct frame *last = NULL;
    for (unsigned i = 0; i < l->frames->len; i++) {
        struct frame *f = l->frames->pdata[i];
        take_off(l, f);
        if (f->damaged) continue;
        f->again = e->tags && last && g_bytes_equal(last->whole, f->whole);
        l->again += f->again;
        last = f;
    }
    if (l->again)
        learn_doubt(l,
                    "%u frames were sent again, by their tags: record it beside a board that "
                    "answers, or what is held repeats too rarely",
                    l->again);
}
