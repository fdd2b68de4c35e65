/* Makes a conversation that fails as short as it can while it still fails.
 * Leaves out halves, then single moves, then switches and faults, and plays what is left.
 * It stops at a limit, and then has the shortest so far. */
#include "drill/judge/shrink.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "lexicon/answers.h"

#include "lexicon/envelope.h"
#include "drill/judge/seen.h"
#include "rlx/link.h"
#include "world/talk/talk_parts.h"

void failing_clear(struct failing *f)
{
    g_free(f->expected);
    g_free(f->came);
    g_free(f->states);
    g_free(f->link);
    g_free(f->heard);
    g_free(f->should);
    g_free(f->is);
    *f = (struct failing){0};
}

/* ---- does it still fail ---- */

struct watch {
    struct failing first;
    bool found;
    unsigned only; /* the move that has to fail */
};

static void on_result(void *user, const struct move *move, const struct result *result)
{
    struct watch *w = user;
    (void)move;
    if (w->found || !result->expected || result->move != w->only) return;
    w->found = true;
    w->first = (struct failing){.move = result->move,
                                .expected = g_strdup(result->expected),
                                .came = g_strdup(result->came),
                                .states = g_strdup(result->states)};
}

/* The lines of a that are none of b. Owned by the caller. */
static char *lines_only_in(const char *a, const char *b)
{
    GString *only = g_string_new(NULL);
    char **lines = g_strsplit(a, "\n", -1);
    for (unsigned i = 0; lines[i]; i++)
        if (*lines[i] && !strstr(b, lines[i])) g_string_append_printf(only, "%s\n", lines[i]);
    g_strfreev(lines);
    return g_string_free(only, FALSE);
}

struct shown shown_new(const struct setup *setup)
{
    struct shown shown = {record_new(setup->lx, setup->slack_us), g_string_new(NULL)};
    if (setup->real) record_only(shown.record, setup->board_link);
    return shown;
}

void shown_free(struct shown *shown)
{
    record_free(shown->record);
    g_string_free(shown->states, TRUE);
}

/* From the lexicon's tables with a clock that is so much faster. */
static bool differs_at(const struct setup *setup, const GArray *moves, const struct shown *firmware,
                       int32_t ppm, struct failing *failing)
{
    struct setup as_tables = *setup;
    struct shown tables = shown_new(setup);
    struct session_options options = {.record = tables.record, .states = tables.states};
    uint64_t us;
    as_tables.firmware = NULL;
    as_tables.board = NULL;
    as_tables.clock_ppm = ppm;
    g_free(session_run(&as_tables, moves, &options, &us));
    struct difference d = record_difference(tables.record, firmware->record, ppm != 0);
    bool differs = d.expected != NULL;
    if (differs && failing)
        *failing =
            (struct failing){.move = d.move,
                             .expected = g_strdup(d.expected),
                             .came = g_strdup(d.came),
                             .states = lines_only_in(tables.states->str, firmware->states->str),
                             .link = g_strdup(d.link),
                             .heard = g_strdup(d.heard),
                             .out = d.out,
                             .safer = d.safer,
                             .should = g_strdup(d.should),
                             .is = g_strdup(d.is),
                             .late_us = d.late_us,
                             .wire = d.wire,
                             .differs = true};
    difference_clear(&d);
    shown_free(&tables);
    return differs;
}

/* A clock may be 2 % slow or fast: where something else came first because of that, it is no
 * difference. */
bool shrink_differs(const struct setup *setup, const GArray *moves, const struct shown *firmware,
                    struct failing *failing)
{
    struct failing exact = {0};
    if (!differs_at(setup, moves, firmware, 0, &exact)) return false;
    for (int32_t ppm = CLOCK_STEP; ppm <= CLOCK_MOST; ppm += CLOCK_STEP)
        if (!differs_at(setup, moves, firmware, ppm, NULL) ||
            !differs_at(setup, moves, firmware, -ppm, NULL)) {
            failing_clear(&exact);
            return false;
        }
    *failing = exact;
    return true;
}

const double shrink_clocks[SHRINK_CLOCKS] = {0.1, 0.125, 0.25, 0.5, 0.9765625, 1.024, 2, 4, 8, 10};

unsigned shrink_clocked(const struct setup *setup, const GArray *moves,
                        const struct shown *firmware)
{
    unsigned same = 0;
    for (unsigned i = 0; i < SHRINK_CLOCKS; i++)
        if (!differs_at(setup, moves, firmware, (int32_t)((shrink_clocks[i] - 1) * 1e6), NULL))
            same |= 1u << i;
    return same;
}

static bool still_differs(const struct setup *setup, const GArray *moves, struct failing *failing)
{
    struct shown firmware = shown_new(setup);
    struct session_options options = {.record = firmware.record, .states = firmware.states};
    uint64_t us;
    char *died = session_run(setup, moves, &options, &us);
    bool differs = !died && shrink_differs(setup, moves, &firmware, failing);
    shown_free(&firmware);
    g_free(died);
    return differs;
}

/* Whether these fail in the way that is looked for, and how. */
static bool fails(const struct setup *setup, const GArray *moves, const struct failing *as,
                  struct failing *how)
{
    struct watch watch = {.only = moves->len - 1};
    struct session_options options = {.told = on_result, .user = &watch};
    uint64_t us;
    if (as->differs) return still_differs(setup, moves, how);
    char *died = session_run(setup, moves, &options, &us);
    bool found =
        as->died ? died != NULL : watch.found && !strcmp(watch.first.expected, as->expected);
    if (found && as->died)
        *how = (struct failing){.move = moves->len - 1,
                                .expected = g_strdup("that the device runs"),
                                .came = g_strdup(died),
                                .states = g_strdup(""),
                                .died = true};
    else if (found)
        *how = watch.first;
    if (!found || as->died) failing_clear(&watch.first);
    g_free(died);
    return found;
}

static void take_over(GArray **best, GArray *shorter, struct failing *failing, struct failing *how)
{
    g_array_free(*best, TRUE);
    *best = shorter;
    failing_clear(failing);
    *failing = *how;
}

GArray *shrink(const struct setup *setup, const GArray *moves, struct failing *failing,
               unsigned most)
{
    GArray *best = moves_copy(moves, failing->move + 1, 0, 0);
    unsigned tried = 0, chunk = best->len > 1 ? best->len - 1 : 0;
    while (chunk && tried < most) {
        bool cut = false;
        for (unsigned at = 0; at + chunk < best->len && tried < most;) {
            struct failing how = {0};
            GArray *shorter = moves_copy(best, best->len, at, chunk);
            tried += shorter->len;
            if (fails(setup, shorter, failing, &how)) {
                take_over(&best, shorter, failing, &how);
                cut = true;
            } else {
                g_array_free(shorter, TRUE);
                at += chunk;
            }
        }
        if (!cut || chunk > 1) chunk /= 2;
    }
    return best;
}

/* ---- as a scene ---- */

void shrink_put_text(GString *out, const char *text)
{
    g_string_append_c(out, '"');
    for (; *text; text++) {
        unsigned char c = (unsigned char)*text;
        if (c == '"')
            g_string_append(out, "\\\"");
        else if (c == '\r')
            g_string_append(out, "\\r");
        else if (c == '\n')
            g_string_append(out, "\\n");
        else if (c < ' ' || c > '~')
            g_string_append_printf(out, "\\x%02X", c);
        else
            g_string_append_c(out, (char)c);
    }
    g_string_append_c(out, '"');
}

static const struct lex_link *link_of(const struct setup *setup, unsigned link)
{
    return setup->lx->links->pdata[link];
}

static void put_speaker(GString *out, const struct setup *setup, unsigned link)
{
    const struct lex_link *of = link_of(setup, link);
    g_string_append_printf(out, "%s%s ", session_has_client(of) ? "by_" : "", of->name);
}

/* As the session sends it: in an envelope of its own, where nobody else makes one. */
static void put_said(GString *out, const struct setup *setup, const struct move *move,
                     unsigned *tags)
{
    const struct lex_link *of = link_of(setup, move->link);
    bool wrapped = !move->raw && !session_has_client(of) && envelope_wanted(of);
    unsigned tag = wrapped ? (*tags)++ & (RLX_TAG_OPENS - 1u) : 0;
    char *frame = session_frame(setup->lx, of, move->text, wrapped, tag);
    shrink_put_text(out, frame);
    g_free(frame);
}

static void put_move(GString *out, const struct setup *setup, const struct move *move,
                     unsigned *tags)
{
    switch (move->what) {
    case MOVE_SAY:
        g_string_append(out, "say ");
        put_speaker(out, setup, move->link);
        put_said(out, setup, move, tags);
        break;
    case MOVE_TYPE:
        g_string_append_printf(out, "type %s ", link_of(setup, move->link)->name);
        shrink_put_text(out, move->text);
        break;
    case MOVE_FROM:
        g_string_append_printf(out, "from %s \"%s\"", link_of(setup, move->link)->name, move->text);
        break;
    case MOVE_PUSH:
        g_string_append_printf(out, "push %s %s", move->text, move->us ? "on" : "off");
        break;
    case MOVE_NOW: g_string_append_printf(out, "now %s", move->text); break;
    case MOVE_WAIT:
        g_string_append_printf(out, "wait %" G_GUINT64_FORMAT "ms", MAX(move->us / 1000, 1));
        break;
    }
    g_string_append_c(out, '\n');
}

static void put_hear(GString *out, const struct setup *setup, unsigned link, const char *text)
{
    g_string_append(out, "hear ");
    put_speaker(out, setup, link);
    shrink_put_text(out, text);
    g_string_append_c(out, '\n');
}

/* As many answers as there were frames. */
static void put_answers(GString *out, const struct setup *setup, const struct move *move)
{
    for (unsigned i = 0; i < (move->what == MOVE_TYPE ? move->frames : 1); i++)
        put_hear(out, setup, move->link, "*");
}

/* "glow at 40 %" as a statement; false: it is something else. */
static bool put_level(GString *out, const struct setup *setup, const char *expected)
{
    char name[64];
    unsigned percent;
    char unit[3];
    if (sscanf(expected, "%63s at %u %2s", name, &percent, unit) != 3) return false;
    if (!strcmp(unit, "us")) {
        g_string_append_printf(out, "see %s %uus\n", name, percent);
        return true;
    }
    int index = lexicon_output_index(setup->lx, name);
    if (index < 0) return false;
    const struct lex_output *o = setup->lx->outputs->pdata[index];
    if (o->pwm)
        g_string_append_printf(out, "see %s %u%%\n", name, percent);
    else
        g_string_append_printf(out, "see %s %s\n", name, percent ? "on" : "off");
    return true;
}

/* What has to be heard and seen where it fails. */
static void put_expected(GString *out, const struct setup *setup, const struct move *move,
                         const struct failing *f)
{
    bool answered = move->owed != OWED_NONE && move->owed != OWED_SILENT && move->owed != OWED_ANY;
    g_string_append_printf(out, "# expected %s; came: %s\n", f->expected, f->came);
    if (f->link) {
        for (unsigned i = 0; i < setup->lx->links->len; i++)
            if (!strcmp(link_of(setup, i)->name, f->link)) put_hear(out, setup, i, f->heard);
        return;
    }
    bool spoken = move->what == MOVE_SAY || move->what == MOVE_TYPE;
    if (f->differs && *f->states && spoken && answered) put_answers(out, setup, move);
    if (f->differs) g_string_append(out, f->states);
    if (f->differs || !spoken) return;
    bool bare = answers_are_own(setup->lx, link_of(setup, move->link)) ||
                session_has_client(link_of(setup, move->link));
    if (move->owed == OWED_OK) put_hear(out, setup, move->link, bare ? "*" : "*ok*");
    if (move->owed == OWED_ERR) put_hear(out, setup, move->link, bare ? "*" : "*e*");
    if (answered && move->owed != OWED_OK && move->owed != OWED_ERR)
        put_hear(out, setup, move->link, "*");
    if (!answered)
        g_string_append_printf(out, "silence %s 200ms\n", link_of(setup, move->link)->name);
    if (!put_level(out, setup, f->expected)) g_string_append(out, f->states);
}

static GString *begin_scene(const struct setup *setup, const char *title)
{
    GString *out = g_string_new("lexicon \"LEXICON\"");
    g_string_append_printf(out, "%s seed %u\n\nscene ", *setup->world ? " world \"WORLD\"" : "",
                           setup->seed);
    shrink_put_text(out, title);
    g_string_append_c(out, '\n');
    return out;
}

/* Its text is answered, if it must be, and the wait is as long as in the conversation. */
static void put_awaited(GString *out, const struct setup *setup, const struct move *move)
{
    bool said = move->what == MOVE_SAY || move->what == MOVE_TYPE;
    bool answered = move->owed == OWED_OK || move->owed == OWED_ERR || move->owed == OWED_ONE;
    if (said && answered) put_answers(out, setup, move);
    if (said && move->owed != OWED_ANY)
        g_string_append(out, answered ? "wait 50ms\n" : "wait 200ms\n");
}

char *shrink_conversation(const struct setup *setup, const GArray *moves, const char *title)
{
    GString *out = begin_scene(setup, title);
    unsigned tags = 0;
    for (unsigned i = 0; i < moves->len; i++) {
        const struct move *move = &g_array_index(moves, struct move, i);
        put_move(out, setup, move, &tags);
        put_awaited(out, setup, move);
    }
    return g_string_free(out, FALSE);
}

char *shrink_scene(const struct setup *setup, const GArray *moves, const struct failing *f,
                   const char *title)
{
    GString *out = begin_scene(setup, title);
    unsigned tags = 0;
    for (unsigned i = 0; i < moves->len; i++) {
        const struct move *move = &g_array_index(moves, struct move, i);
        put_move(out, setup, move, &tags);
        if (i == moves->len - 1)
            put_expected(out, setup, move, f);
        else
            put_awaited(out, setup, move);
    }
    return g_string_free(out, FALSE);
}

/* ---- as people read it ---- */

static void on_sight(void *user, const struct sight *sight)
{
    struct talk *talk = user;
    bool stray = sight->kind == SIGHT_OUT && sight->board &&
                 output_of_event(sight->board->lx, sight->event) < 0; /* of no output */
    if (!sight->board || stray) return;
    talk->bench = sight->board->bench;
    if (talk->bench->world->now_us >= 2900000 || sight->kind != SIGHT_OUT) talk_print(talk, sight);
}

GPtrArray *shrink_around(const struct setup *setup, const GArray *moves, unsigned most)
{
    static const struct talk_options silent;
    struct talk talk = {.options = &silent, .ramp = {.step = {.kind = SIM_SLEEP}}};
    struct session_options options = {.watcher = on_sight, .watcher_user = &talk};
    GPtrArray *lines = g_ptr_array_new_with_free_func(g_free);
    char *buffer = NULL;
    size_t size = 0;
    uint64_t us;
    talk.out = open_memstream(&buffer, &size);
    g_free(session_run(setup, moves, &options, &us));
    fclose(talk.out);
    char **all = g_strsplit(buffer, "\n", -1);
    for (unsigned i = 0; all[i]; i++)
        if (*all[i]) g_ptr_array_add(lines, g_strdup(all[i]));
    while (lines->len > most) g_ptr_array_remove_index(lines, 0);
    g_strfreev(all);
    free(buffer);
    return lines;
}
