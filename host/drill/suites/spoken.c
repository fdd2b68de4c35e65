/* The suite about how commands are sent: batches, precedence of links, repeated tags.
 * Scenes and drawn runs of tags, judged by a book of what was obeyed.
 * Single commands are in words.c. */
#include <string.h>

#include "world/run/draw.h"
#include "lexicon/envelope.h"
#include "rlx/link.h"
#include "drill/suites/life.h"

/* ---- batches ---- */

void spoken_batches(struct life *life)
{
    const struct drill *drill = life->drill;
    unsigned link = life->job->link;
    const char *first = NULL;
    if (!(drill->lx->built_in & RLX_BUILT_IN_BATCH)) return;
    for (unsigned i = 0; i < drill->cases->len; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        bool good = test->of && test->valid && test->why == CASE_PLAIN && !test->of->query &&
                    test->of->effect.kind != LEX_STORE && test->of->effect.kind != LEX_CALL &&
                    drill_may_say(drill_link(drill, link), test) && !strchr(test->text, '"') &&
                    !lex_is_guarded(test->of);
        if (!good) continue;
        if (first && strlen(first) + strlen(test->text) + 8 <
                         session_most(drill->lx, drill_link(drill, link))) {
            char *both = g_strdup_printf("%s; %s", first, test->text);
            char *half = g_strdup_printf("%s; %s zzz", test->text, first);
            life_say(life, link, both);
            life_hear(life, link, "*ok 2");
            life_put(life, "wait 10s\nnow reset power\nwait 1s");
            life_say(life, link, half);
            life_hear(life, link, "*err *");
            life_put_safe(life, "1ms");
            life_put(life, "still 1s");
            life_play(life, "batches", "All or nothing: %s", both);
            g_free(both);
            g_free(half);
        }
        first = test->text;
    }
}

/* ---- who goes first ---- */

void spoken_yields(struct life *life)
{
    const struct drill *drill = life->drill;
    for (unsigned link = 0; link < drill->lx->links->len; link++) {
        const struct lex_link *of = drill_link(drill, link);
        const char *text = life_any(drill, link);
        if (!of->yields || !text || !life_is_spoken(drill, link)) continue;
        for (unsigned other = 0; other < drill->lx->links->len; other++) {
            const char *theirs = life_any(drill, other);
            if (strcmp(drill_link(drill, other)->name, of->yields) != 0 || !theirs ||
                !life_is_spoken(drill, other))
                continue;
            life_obeyed(life, link, text);
            life_obeyed(life, other, theirs);
            if (of->medium != LEX_SMS || of->yields_s > 30) {
                life_say(life, link, text);
                life_hear(life, link, of->texts->len ? "*" : "*e*");
            }
            life_put(life, "wait %us", of->yields_s + 1);
            life_obeyed(life, link, text);
            life->link = link;
            life_play(life, "who goes first", "%s goes before %s", of->yields, of->name);
        }
    }
}

/* ---- tags ---- */

static void say_raw(struct life *life, const struct lex_link *link, unsigned tag, const char *text)
{
    char *frame = envelope_around(link, tag, text), *escaped = g_strescape(frame, NULL);
    life_put(life, "say %s \"%s\"", link->name, escaped);
    g_free(escaped);
    g_free(frame);
}

/* The answer to that tag, whatever its check is. */
static void hear_raw(struct life *life, const struct lex_link *link, unsigned tag, const char *what)
{
    char source[24] = "", number[16] = "";
    if (link->address >= 0)
        g_snprintf(source, sizeof source, "@%u/%d ", link->senders ? ENVELOPE_SOURCE : 0u,
                   link->address);
    if (link->tags) g_snprintf(number, sizeof number, "#%u ", tag);
    life_put(life, "hear %s \"%s%s%s*\"", link->name, source, number, what);
}

static void tags(struct life *life, unsigned number, const char *text, const char *seen)
{
    const struct lex_link *link = drill_link(life->drill, number);
    char *damaged = envelope_around(link, 9, text);
    damaged[strlen(damaged) / 2] ^= 1;
    char *escaped = g_strescape(damaged, NULL);
    say_raw(life, link, 7, text);
    hear_raw(life, link, 7, "");
    life_put(life, "wait 100ms");
    say_raw(life, link, 7, text);
    hear_raw(life, link, 7, "");
    if (seen) life_put(life, "%s", seen);
    life_put_still(life, text, 500);
    if (link->check == LEX_DEMAND_REQUIRED) {
        bool radio = link->medium == LEX_RADIO;
        life_put(life, radio ? "say %s \"%s\"\nsilence %s 500ms" : "say %s \"%s\"\nhear %s \"*e*\"",
                 link->name, escaped, link->name);
        life_put_still(life, text, 500);
    }
    for (unsigned tag = 8; tag < 30; tag++) {
        say_raw(life, link, tag, text);
        hear_raw(life, link, tag, "");
    }
    say_raw(life, link, 29, text);
    hear_raw(life, link, 29, "");
    for (unsigned tag = 10; tag < 29; tag += 6) {
        say_raw(life, link, tag, text);
        if (!link->texts->len) hear_raw(life, link, tag, "e*");
    }
    /* out of order, each once */
    static const uint8_t late[] = {33, 31, 32, 31, 33, 30, 32, 49, 34, 33, 34};
    for (unsigned i = 0; i < G_N_ELEMENTS(late); i++) {
        say_raw(life, link, late[i], text);
        hear_raw(life, link, late[i], "");
    }
    life->link = number;
    life_play(life, "tags", "A tag over %s is obeyed once", link->name);
    char *other = g_strconcat(" ", text, NULL); /* the same, and yet another frame */
    say_raw(life, link, 7, text);
    hear_raw(life, link, 7, "");
    life_put(life, "wait 100ms");
    say_raw(life, link, 7, other);
    if (!link->texts->len) hear_raw(life, link, 7, "e*");
    life_put_still(life, text, 500);
    say_raw(life, link, 8, other);
    hear_raw(life, link, 8, "");
    g_free(other);
    life->link = number;
    life_play(life, "tags", "A tag over %s stands for one text", link->name);
    if (link->check != LEX_DEMAND_REQUIRED && !link->texts->len) {
        char *head = link->address < 0 ? g_strdup("")
                     : link->senders   ? g_strdup_printf("@%d/%u ", link->address, ENVELOPE_SOURCE)
                                       : g_strdup_printf("@%d ", link->address);
        life_put(life, "say %s \"%s%s\"\nhear %s \"*e*\"", link->name, head, text, link->name);
        g_free(head);
        life->link = number;
        life_play(life, "tags", "Without a tag nothing is done over %s", link->name);
    }
    say_raw(life, link, RLX_TAG_MOST + 1, text);
    life_put(life, "hear %s \"*e*\"\nstill 500ms", link->name);
    life->link = number;
    life_play(life, "tags", "No tag is above %u over %s", RLX_TAG_MOST, link->name);
    g_free(escaped);
    g_free(damaged);
}

/* A toggle, whose repeat comes behind a power cut. */
static void kept_tags(struct life *life, unsigned number, const char *toggle,
                      const struct lex_output *out)
{
    const struct lex_link *link = drill_link(life->drill, number);
    const char *safe = out->safe ? "on" : "off", *other = out->safe ? "off" : "on";
    if (!link->tags_kept || link->window < 2000) return;
    say_raw(life, link, 7, toggle);
    hear_raw(life, link, 7, "");
    life_put(life, "see %s %s within 1ms\nwait 200ms\nnow reset power\nwait 500ms", out->name,
             other);
    life_put(life, "see %s %s within 1ms", out->name, safe);
    say_raw(life, link, 7, toggle);
    if (!link->texts->len) hear_raw(life, link, 7, "ok");
    life_put(life, "still 500ms");
    say_raw(life, link, 8, toggle);
    hear_raw(life, link, 8, "");
    life_put(life, "see %s %s within 1ms", out->name, other);
    life->link = number;
    life_play(life, "tags", "A tag over %s is obeyed once, also over a power cut", link->name);
}

/* No retry client is on the air: a text is sent as it is. */
void spoken_tags(struct life *life)
{
    const struct drill *drill = life->drill;
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        const struct lex_link *link = drill_link(drill, i);
        const char *text = life_any(drill, i);
        if (link->tags != LEX_DEMAND_REQUIRED || drill_why_not(drill, i) || !text ||
            link->one_way || link->replies == LEX_REPLIES_SILENT || link->medium == LEX_SMS ||
            lex_is_keyed(link))
            continue;
        const struct lex_output *out;
        const char *toggle = life_toggle(drill, i, true, &out);
        char *seen = NULL;
        if (toggle) {
            text = toggle;
            seen = g_strdup_printf("see %s %s within 1ms", out->name, out->safe ? "off" : "on");
        }
        char *frame = envelope_around(link, 255, text);
        struct drill bare = *drill;
        struct life own = *life;
        bare.world = (char *)"";
        own.drill = &bare;
        if (strlen(frame) <= link->longest) tags(&own, i, text, seen);
        if (toggle && strlen(frame) <= link->longest) kept_tags(&own, i, toggle, out);
        g_free(frame);
        g_free(seen);
    }
}

/* ---- envelopes of all kinds ---- */

/* A tag that follows the last one, or comes again, early, late, or is none. */
static unsigned next_tag(struct draw *draw, unsigned *last)
{
    unsigned how = draw_below(draw, 10), tag = *last;
    const unsigned counts = RLX_TAG_OPENS - 1;
    if (how < 4) return *last = (*last + 1) & counts;
    if (how < 6) return tag;
    if (how < 7) return (tag - 1 - draw_below(draw, 20)) & counts;
    if (how < 8) return *last = (tag + 2 + draw_below(draw, 70)) & counts;
    return how < 9 ? *last = draw_below(draw, RLX_TAG_MOST + 1)
                   : RLX_TAG_MOST - 1 + draw_below(draw, 5);
}

/* A frame, mostly right; *other: with a letter that is another one, and
 * a check that fits. Owned by the caller. */
static char *some_frame(struct draw *draw, const struct lex_link *link, const char *text,
                        unsigned *last, bool *other)
{
    GString *head = g_string_new(NULL);
    unsigned odd = draw_below(draw, 12);
    struct lex_link bare = {.address = -1, .check = link->check};
    if (link->address >= 0 && odd == 0) {
        g_string_append_printf(head, link->senders ? "@%u/1 " : "@%u ", draw_below(draw, 256));
    } else if (link->address >= 0 && odd == 1) {
        static const char *const to_all[] = {"@*/1 ", "@* ", "@*1 "};
        g_string_append(head, to_all[draw_below(draw, 3)]);
    } else if (link->address >= 0 && odd != 2) {
        unsigned from = 1 + draw_below(draw, odd == 3 ? 40 : MAX(link->senders, 1));
        g_string_append_printf(head, link->senders ? "@%d/%u " : "@%d ", link->address, from);
    }
    if (link->tags && odd != 4) g_string_append_printf(head, "#%u ", next_tag(draw, last));
    g_string_append_printf(head, "%s%s", odd == 5 ? "  " : "", text);
    *other = odd == 8;
    if (*other)
        head->str[draw_below(draw, (uint32_t)head->len)] ^= (char)(1 << draw_below(draw, 4));
    char *frame = odd == 6 ? g_strdup(head->str) : envelope_around(&bare, 0, head->str);
    if (odd == 7)
        frame[draw_below(draw, (uint32_t)strlen(frame))] ^= (char)(1 << draw_below(draw, 6));
    g_string_free(head, TRUE);
    return frame;
}

/* Frames sent as they are; mostly of use to compare a firmware with the reference model. */
void spoken_envelopes(struct life *life, unsigned link, unsigned seed)
{
    const struct drill *drill = life->drill;
    const struct lex_link *of = drill_link(drill, link);
    struct draw draw = draw_from(drill->options->seed * 31u + seed);
    GArray *moves = moves_new();
    unsigned last = draw_below(&draw, 256);
    const struct drill_case *counts = NULL;
    for (unsigned i = 0; i < drill->cases->len; i++)
        if (!strcmp(((struct drill_case *)drill->cases->pdata[i])->text, "stats"))
            counts = drill->cases->pdata[i];
    for (unsigned i = 0; i < 90; i++) {
        const struct drill_case *test = drill->cases->pdata[draw_below(&draw, drill->cases->len)];
        bool stores = drill_stored(drill->lx, test), other;
        if (i % 12 == 11) test = counts ? counts : test;
        char *frame = some_frame(&draw, of, test->text, &last, &other);
        bool fits =
            strlen(frame) <= (of->payload ? of->payload : of->longest) && !strchr(frame, '\n');
        if (fits && !stores) {
            struct move *move = moves_add(moves, MOVE_SAY, link, frame);
            move->raw = move->torn = move->busy = true;
            move->excused = other || of->check != LEX_DEMAND_REQUIRED;
            move->test = test;
            move->owed = OWED_PERHAPS;
        }
        if (!draw_below(&draw, 6)) moves_wait(moves, 1000 * (1 + draw_below(&draw, 60000)));
        g_free(frame);
    }
    struct conversation c = {.job = life->job,
                             .row = "envelopes of all kinds",
                             .fault = "mixed",
                             .strength = "envelopes",
                             .moves = moves,
                             .world = of->medium == LEX_RADIO ? "" : drill->world,
                             .patience_us = 150000,
                             .seed = drill->options->seed};
    yield_conversation(life->yield, drill, &c);
    g_array_free(moves, TRUE);
}
