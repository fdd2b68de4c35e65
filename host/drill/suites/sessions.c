/* The suite about commands that wait for something: `only while service on`, and those with a code.
 * Each is refused before, and obeyed when what it waits for is so, which commands, codes and
 * inputs of the lexicon bring about. What opens a session in no such way is left out. */
#include "drill/suites/life.h"

#include "rlx/guess.h"

/* unlock "4711": the command with this as its code. Owned by the caller. */
static char *coded_text(const struct lex_command *command, const char *code)
{
    GString *text = g_string_new(NULL);
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (i) g_string_append_c(text, ' ');
        if (e->kind == LEX_WORD)
            g_string_append(text, lex_spelling(e, 0));
        else
            g_string_append_printf(text, "\"%s\"", code);
    }
    return g_string_free(text, FALSE);
}

static const char *standard(const struct life *life, const struct lex_command *command)
{
    const char *value = lexicon_setting(life->drill->lx, command->code)->value;
    return value && *value ? value : NULL;
}

/* Whether the command switches the output on. */
static bool turns_on(const struct lexicon *lx, const struct lex_command *command,
                     const struct lex_output *out)
{
    return lex_effect_output(lx, &command->effect) == out && !command->effect.which &&
           command->effect.kind == LEX_SWITCH && command->effect.fixed == RLX_ON;
}

/* Over the link: by the right code, by a command without one, or by hand. False: by none. */
static bool open_output(struct life *life, unsigned link, const struct lex_output *out)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (!turns_on(lx, command, out) || command->guards ||
            !lex_may_say(drill_link(life->drill, link), command))
            continue;
        const char *code = command->code ? standard(life, command) : NULL;
        char *text = code ? coded_text(command, code) : NULL;
        const char *plain = text ? text : life_text(life->drill, link, command, CASE_PLAIN);
        if (plain) life_obeyed(life, link, plain);
        g_free(text);
        if (plain) return true;
    }
    for (unsigned i = 0; i < life->drill->cases->len; i++) {
        const struct drill_case *test = life->drill->cases->pdata[i];
        if (!test->of || !test->valid || lex_is_guarded(test->of) || test->of->effect.which ||
            lex_effect_output(lx, &test->of->effect) != out ||
            !g_str_has_suffix(test->text, " on") ||
            !drill_may_say(drill_link(life->drill, link), test))
            continue;
        life_obeyed(life, link, test->text);
        return true;
    }
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        const struct lex_command *act = in->acts[LEX_WHEN_HELD];
        if (!act || !turns_on(lx, act, out)) continue;
        life_put(life, "push %s on\nwait %ums\npush %s off\nwait %ums", in->name,
                 in->held + in->debounce + 100, in->name, in->debounce + 100);
        return true;
    }
    return false;
}

/* Makes it so, or not so. */
static bool put_guard(struct life *life, unsigned link, const struct lex_permit *guard, bool so)
{
    if (guard->of) {
        life_put(life, "push %s %s\nwait %ums", guard->name, guard->on == so ? "on" : "off",
                 guard->of->debounce + 100);
        return true;
    }
    if (drill_by(life->drill, guard->out) || guard->out->safe) return false;
    return guard->on != so || open_output(life, link, guard->out);
}

bool life_open(struct life *life, unsigned link, const struct lex_command *command)
{
    bool can = true;
    for (unsigned i = 0; can && command->guards && i < command->guards->len; i++)
        can = put_guard(life, link, command->guards->pdata[i], true);
    return can;
}

/* All but one of what it waits for is so, and then that one. */
static void waits(struct life *life, unsigned link, const struct drill_case *test, unsigned which)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const GPtrArray *guards = test->of->guards;
    const struct lex_permit *one = guards->pdata[which];
    bool can = true;
    for (unsigned i = 0; i < guards->len; i++)
        if (i != which) can = put_guard(life, link, guards->pdata[i], true) && can;
    can = put_guard(life, link, one, false) && can;
    life_say(life, link, test->text);
    char *refused = g_strdup_printf("*blocked %s*", one->name);
    life_hear(life, link, of->texts->len ? "*" : refused);
    g_free(refused);
    if (one->out && !one->on) life_put(life, "now reset power\nwait 1s");
    can = put_guard(life, link, one, true) && can;
    if (test->of->effect.kind == LEX_CALL) {
        life_say(life, link, test->text);
        life_hear(life, link, "*");
    } else {
        life_obeyed(life, link, test->text);
    }
    life->link = link;
    if (!can) life->unsayable = true; /* and nothing is played */
    char *what = lex_command_text(test->of);
    life_play(life, "sessions", "%s over %s waits for %s %s", what, of->name, one->name, one->word);
    g_free(what);
}

/* On each link that hears of it: somebody guesses this code. */
static void hears_of_guesses(struct life *life, const char *code)
{
    const struct lexicon *lx = life->drill->lx;
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *e = lx->events->pdata[i];
        char *told = g_strdup_printf("*ev *%s*", e->name);
        for (unsigned k = 0; !g_strcmp0(e->input, code) && k < lx->links->len; k++) {
            const struct lex_link *to = drill_link(life->drill, k);
            if (life_is_told(e, to) && life_is_spoken(life->drill, k) && !to->texts->len &&
                to->state_pin == LEX_NO_PIN && to->medium == LEX_SERIAL)
                life_hear(life, k, told);
        }
        g_free(told);
    }
}

/* Who tries codes is not heard for a while, also after a reset. */
static void guesses(struct life *life, unsigned link, const struct lex_command *command)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const struct lex_setting *code = lexicon_setting(life->drill->lx, command->code);
    const char *denied = of->texts->len ? "*" : "*denied*";
    char *right = coded_text(command, standard(life, command));
    for (unsigned turn = 0; turn < 2; turn++) {
        for (unsigned i = 0; i < RLX_GUESSES; i++) {
            char *text = g_strdup(code->value);
            text[0] = text[0] == (char)('a' + i) ? 'z' : (char)('a' + i);
            char *wrong = coded_text(command, text);
            life_say(life, link, wrong);
            life_hear(life, link, denied);
            g_free(wrong);
            g_free(text);
        }
        hears_of_guesses(life, command->code);
        if (turn) life_put(life, "wait 59s\nnow reset power\nwait 2s");
        life_say(life, link, right);
        life_hear(life, link, denied);
        life_put(life, "wait 60s");
        life_obeyed(life, link, right);
        life->link = link;
        life_play(life, "sessions", "Who tries codes over %s waits a minute%s", of->name,
                  turn ? ", and again after a reset" : "");
    }
    g_free(right);
}

void spoken_sessions(struct life *life)
{
    const struct drill *drill = life->drill;
    for (unsigned link = 0; link < drill->lx->links->len; link++) {
        const struct lex_link *of = drill_link(drill, link);
        if (!life_is_spoken(drill, link) || of->medium == LEX_SMS || drill->real ||
            of->replies != LEX_REPLIES_FULL)
            continue;
        for (unsigned i = 0; i < drill->cases->len; i++) {
            const struct drill_case *test = drill->cases->pdata[i];
            if (!test->of || !test->valid || test->why != CASE_PLAIN || !test->of->guards ||
                test->of->code || !drill_may_say(of, test))
                continue;
            for (unsigned k = 0; k < test->of->guards->len; k++) waits(life, link, test, k);
        }
        for (unsigned i = 0; i < drill->lx->commands->len; i++) {
            const struct lex_command *command = drill->lx->commands->pdata[i];
            if (command->code && !command->guards && standard(life, command) &&
                lex_may_say(of, command))
                guesses(life, link, command);
        }
    }
}
