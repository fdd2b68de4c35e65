/* Reads the effect behind '=>': an output and what it does, a function, a routine.
 * Verbs and their bounds come from rlx/def/verbs.h.
 * It does not look at the command's slots. */
#include "lexicon/answers.h"
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"

#include <string.h>

#include "rlx/drive.h"

#define ANSWER_MAX 100

char *lex_read_function(struct lexicon *lx, const struct token *token)
{
    static const char *const keywords[] = {
        "auto",    "break",  "case",     "char",   "const",    "continue", "default",
        "do",      "double", "else",     "enum",   "extern",   "float",    "for",
        "goto",    "if",     "inline",   "int",    "long",     "register", "restrict",
        "return",  "short",  "signed",   "sizeof", "static",   "struct",   "switch",
        "typedef", "union",  "unsigned", "void",   "volatile", "while",    NULL};
    char *name = g_strndup(token->text, strlen(token->text) - 2);
    if (!lex_name_ok(name) || g_strv_contains(keywords, name))
        lex_fault(lx, token->place, "'%s' cannot be the name of a C function", name);
    return name;
}

const struct lex_verb lex_verbs[LEX_VERBS] = {
#define VERB(id, word, behind, kinds, steps, stops, again, does) \
    [RLX_##id] = {word, kinds, RLX_BEHIND_##behind, steps, stops, again},
    RLX_VERBS(VERB)
#undef VERB
};

const struct lex_behind lex_behinds[] = {
#define BEHIND(id, least, most, normal) [RLX_BEHIND_##id] = {least, most, normal},
    RLX_BEHINDS(BEHIND)
#undef BEHIND
};

/* Whether the output knows the verb in a lexicon. */
static bool knows(const struct lex_output *out, const struct lex_verb *verb)
{
    const struct lex_kind *kind = lex_kind_of(out);
    return verb->word && verb->kinds >> out->kind & 1 &&
           (!kind->knows || kind->knows(out, (enum rlx_verb)(verb - lex_verbs)));
}

const struct lex_verb *lex_verb_of(const struct lex_output *out, const char *word)
{
    for (unsigned i = 0; i < LEX_VERBS; i++)
        if (knows(out, &lex_verbs[i]) && !strcmp(lex_verbs[i].word, word)) return &lex_verbs[i];
    return NULL;
}

char *lex_verbs_of(const struct lex_output *out, bool plain)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < LEX_VERBS; i++)
        if (knows(out, &lex_verbs[i]) && (!plain || lex_verbs[i].behind == RLX_BEHIND_NONE))
            g_string_append_printf(all, "%s%s", all->len ? ", " : "", lex_verbs[i].word);
    for (unsigned i = 0; i < out->positions->len; i++)
        g_string_append_printf(all, "%s%s", all->len ? ", " : "",
                               ((struct lex_position *)out->positions->pdata[i])->name);
    return g_string_free(all, FALSE);
}

bool lex_takes_level(const struct lex_output *out)
{
    enum lex_levels levels = lex_kind_of(out)->levels;
    return levels == LEX_LEVELS_PWM ? out->pwm : levels != LEX_LEVELS_NONE;
}

bool lex_is_plain(const struct lex_output *out)
{
    return lex_verbs[RLX_TOGGLE].kinds >> out->kind & 1;
}

/* by 10mm: a way in the output's range, of its length at most. */
static void read_way(struct statement *st, struct lex_effect *effect, const struct lex_output *out)
{
    struct token *token = statement_peek(st);
    if (!out->range || token->kind != TOKEN_WORD || lex_is_command_attribute(st)) return;
    struct lex_element any = *out->range;
    any.high -= any.low;
    any.low = -any.high;
    effect->argument_fixed = true;
    st->next++;
    if (lex_value_said(&any, token->text, &effect->argument)) return;
    char *most = lex_value_text(&any, any.high);
    const char *unit = any.unit ? any.unit : "";
    lex_fault(st->lx, token->place, "expected how far, -%s%s..%s%s", most, unit, most, unit);
    g_free(most);
}

/* The value behind the verb, if it stands in the lexicon: flash 3, blink 500ms. */
static void read_argument(struct statement *st, struct lex_effect *effect,
                          const struct lex_output *out)
{
    struct token *token = statement_peek(st);
    unsigned number;
    uint32_t ms;
    if (effect->verb->behind == RLX_BEHIND_PATTERN) {
        int index = token->kind == TOKEN_WORD ? lexicon_pattern_index(st->lx, token->text) : -1;
        if (index < 0)
            lex_fault(st->lx, token->place, "expected the name of a pattern above");
        else
            st->next++;
        effect->argument_fixed = true;
        effect->argument = MAX(index, 0);
        return;
    }
    if (effect->verb->behind == RLX_BEHIND_STEPS) {
        read_way(st, effect, out);
        return;
    }
    if (effect->verb->behind == RLX_BEHIND_NONE || token->kind != TOKEN_WORD ||
        !g_ascii_isdigit(token->text[0]))
        return;
    effect->argument_fixed = true;
    if (effect->verb->behind == RLX_BEHIND_TIME) {
        if (statement_time(st, effect->verb->word, 10, 86400000, &ms))
            effect->argument = (int32_t)ms;
    } else if (effect->verb->behind == RLX_BEHIND_HERTZ) {
        if (statement_hertz(st, &ms)) effect->argument = (int32_t)ms;
    } else {
        bool level =
            effect->verb->behind == RLX_BEHIND_LEVEL || effect->verb->behind == RLX_BEHIND_SPEED;
        char *text = g_strdup(token->text);
        if (level && g_str_has_suffix(token->text, "%")) token->text[strlen(token->text) - 1] = 0;
        if (statement_number(st, level ? "a level in percent" : "a count", level ? 0 : 1,
                             level ? 100 : 255, &number))
            effect->argument = (int32_t)number;
        g_free(text);
    }
}

/* A level that stands in the lexicon: glow 5%, feeder -50%. */
static bool read_level(struct lex_effect *effect, const struct lex_output *out, const char *text)
{
    enum lex_levels levels = lex_kind_of(out)->levels;
    struct lex_element any = {.kind = LEX_NUMBER, .high = 100, .unit = (char *)"%"};
    int32_t value;
    if (levels == LEX_LEVELS_SIGNED) any.low = -100;
    bool said = levels != LEX_LEVELS_OWN ? lex_value_said(&any, text, &value)
                                         : out->range && lex_range_said(out, text, &value);
    if (!said || !lex_takes_level(out)) return false;
    effect->kind = LEX_LEVEL;
    effect->position = lex_position_of(out, text);
    effect->argument = value;
    effect->argument_fixed = true;
    effect->fixed = levels == LEX_LEVELS_PWM ? value : 0;
    return true;
}

/* The verb or level of the output, if it stands in the lexicon. */
static void read_fixed(struct statement *st, struct lex_command *command,
                       const struct lex_output *out)
{
    struct lex_effect *effect = &command->effect;
    struct token *token = statement_take(st);
    effect->verb = lex_verb_of(out, token->text);
    if (effect->verb && effect->verb - lex_verbs <= RLX_TOGGLE) {
        effect->fixed = (int)(effect->verb - lex_verbs);
        if (!lex_is_plain(out)) effect->kind = LEX_VERB;
    } else if (effect->verb) {
        effect->kind = LEX_VERB;
        effect->fixed = 0;
        read_argument(st, effect, out);
    } else if (!read_level(effect, out, token->text) && !lex_lacks_range(out)) {
        const char *words[LEX_VERBS + 1];
        unsigned n = 0;
        for (unsigned i = 0; i < LEX_VERBS; i++)
            if (knows(out, &lex_verbs[i])) words[n++] = lex_verbs[i].word;
        for (unsigned i = 0; i < out->positions->len && n < LEX_VERBS; i++)
            words[n++] = ((struct lex_position *)out->positions->pdata[i])->name;
        words[n] = NULL;
        char *near = lex_did_you_mean(token->text, words), *all = lex_verbs_of(out, false);
        char *own = out->range ? lex_range_text(out->range) : NULL;
        lex_fault(st->lx, token->place, "'%s' takes %s%s%s%s, not '%s'%s", out->name, all,
                  !lex_takes_level(out) ? ""
                  : own                 ? ", or "
                                        : ", or a level",
                  own ? own : "", own && out->range->unit ? out->range->unit : "", token->text,
                  near);
        g_free(own);
        g_free(near);
        g_free(all);
    }
}

/* An output whose name is spelt so in commands, or -1. */
static int output_spelt(const struct lexicon *lx, const char *word)
{
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        char *name = lex_spelt(lx, ((struct lex_output *)lx->outputs->pdata[i])->name);
        bool same = !strcmp(name, word);
        g_free(name);
        if (same) return (int)i;
    }
    return -1;
}

/* The slot of this name selects the output: each of its words is one. */
static bool read_which(struct lexicon *lx, struct lex_command *command, const char *name)
{
    struct lex_element *slot = NULL;
    for (unsigned i = 0; command->elements && i < command->elements->len; i++) {
        struct lex_element *e = command->elements->pdata[i];
        if (!slot && e->kind != LEX_WORD) slot = e; /* the first slot only */
    }
    if (!slot || slot->kind != LEX_CHOICE || g_strcmp0(slot->text, name) != 0) return false;
    slot->outputs = g_new0(unsigned, slot->words->len);
    for (unsigned i = 0; i < slot->words->len; i++) {
        int index = output_spelt(lx, slot->words->pdata[i]);
        slot->outputs[i] = (unsigned)MAX(index, 0);
        if (index < 0)
            lex_find(lx, LEX_D14, slot->place, "'%s' is none of the outputs above",
                     (char *)slot->words->pdata[i]);
    }
    command->effect.which = slot;
    command->effect.output = slot->outputs[0];
    return true;
}

/* OUTPUT [VERB | LEVEL], or the first slot's name instead of an output; FUNCTION(); ROUTINE [stop]
 */
bool read_effect(struct statement *st, struct lex_command *command)
{
    struct token *token = statement_take(st);
    command->effect.fixed = -1;
    if (token->kind != TOKEN_WORD) {
        lex_fault(st->lx, token->place, "expected an output or a function() after '=>'");
        return false;
    }
    if (g_str_has_suffix(token->text, "()")) {
        command->effect.kind = LEX_CALL;
        command->effect.handler = lex_read_function(st->lx, token);
        return true;
    }
    int index = lexicon_output_index(st->lx, token->text);
    int routine = index < 0 ? lexicon_routine_index(st->lx, token->text) : -1;
    if (routine >= 0) {
        command->effect.kind = LEX_RUN;
        command->effect.output = (unsigned)routine;
        command->effect.fixed = statement_take_word(st, "stop") ? RLX_CANCEL : RLX_RUN;
        return true;
    }
    if (index >= 0) command->effect.output = (unsigned)index;
    if (index < 0 && !read_which(st->lx, command, token->text)) {
        char *near = lex_did_you_mean_output(st->lx, token->text);
        const char *open = strchr(token->text, '(');
        if (open)
            lex_fault(st->lx, token->place,
                      "a function is written '%.*s()': it gets the slots' values, in their order",
                      (int)(open - token->text), token->text);
        else if (*near)
            lex_fault(st->lx, token->place, "there is no output '%s' above%s", token->text, near);
        else
            lex_fault(st->lx, token->place,
                      "there is no output '%s' above; a function is written '%s()'", token->text,
                      token->text);
        g_free(near);
        return false;
    }
    if (!st->lx->outputs->len) return true;
    const struct lex_output *out = st->lx->outputs->pdata[command->effect.output];
    if (statement_peek(st)->kind == TOKEN_WORD && !lex_is_command_attribute(st))
        read_fixed(st, command, out);
    if (!statement_take_word(st, "for")) return true;
    if (!lex_kind_of(out)->switches)
        lex_fault(st->lx, statement_peek(st)->place, "only what is on or off lasts 'for' a time");
    if (statement_peek(st)->kind == TOKEN_SLOT) {
        lex_fault(
            st->lx, statement_peek(st)->place,
            "behind 'for' stands a time, like 20min; a time that is sent is the pattern's slot, "
            "and the effect '=> %s pulse'",
            out->name);
        return false;
    }
    return statement_time_by(st, "how long it lasts", 10, RLX_LASTS_MAX, &command->effect.lasts,
                             &command->effect.lasts_by);
}

bool read_state(struct statement *st, struct lex_command *command, unsigned output)
{
    const struct lex_output *out = st->lx->outputs->pdata[output];
    struct lex_place place = statement_peek(st)->place;
    unsigned faults = st->lx->faults->len;
    command->effect.fixed = -1;
    command->effect.output = output;
    if (statement_peek(st)->kind == TOKEN_WORD) read_fixed(st, command, out);
    if (st->lx->faults->len == faults && command->effect.fixed < 0 &&
        !command->effect.argument_fixed)
        lex_fault(st->lx, place, "expected a state of '%s', like on or blink 500ms", out->name);
    return st->lx->faults->len == faults;
}

static bool is_attribute(const char *word)
{
    return !strcmp(word, "expires") || !strcmp(word, "newest") || !strcmp(word, "says") ||
           !strcmp(word, "refuses") || !strcmp(word, "answers") || !strcmp(word, "only") ||
           !strcmp(word, "code");
}

/* expires T, newest, says TEXT */
bool lex_is_command_attribute(struct statement *st)
{
    const char *word = statement_peek(st)->text;
    return is_attribute(word) || !strcmp(word, "for");
}

/* Whether it can be an answer of this command; else a fault says what is wrong. */
static bool is_answer(struct statement *st, const struct lex_command *command,
                      const struct token *token)
{
    struct answer_piece piece;
    const char *text = token->text, *at = text;
    bool slot = true; /* the answer before it is no character */
    for (const char *p = text; *p; p++)
        if (*p < ' ' || *p > '~') {
            lex_fault(st->lx, token->place, "an answer has ASCII characters only");
            return false;
        }
    if (!*text || *text == ' ' || strlen(text) > ANSWER_MAX) {
        lex_fault(st->lx, token->place, "an answer has 1 to %d characters and begins with no blank",
                  ANSWER_MAX);
        return false;
    }
    while ((at = answer_next(command, at, &piece))) {
        if (piece.slot == -2) {
            lex_fault(st->lx, token->place, "there is no slot '{%.*s}' in this command",
                      (int)piece.length, piece.text);
            return false;
        }
        if (piece.slot == -1 && *piece.text == '{') {
            lex_fault(st->lx, token->place, "expected '}' behind \"%s\"", piece.text);
            return false;
        }
        if (piece.slot >= 0 && slot) {
            lex_fault(st->lx, token->place, "write a word before '{%.*s}' in the answer",
                      (int)piece.length, piece.text);
            return false;
        }
        slot = piece.slot >= 0;
    }
    return true;
}

/* says "TEXT" [already "TEXT"] [on LINK ...] */
static bool read_says(struct statement *st, struct lex_command *command)
{
    char **to[] = {&command->says, &command->already};
    for (unsigned i = 0; i < 2; i++) {
        if (i && !statement_take_word(st, "already")) continue;
        struct token *token = statement_peek(st);
        if (token->kind != TOKEN_STRING) {
            lex_fault(st->lx, token->place, "expected the answer in quotes, like \"lamp is on\"");
            return false;
        }
        if (!is_answer(st, command, token)) return false;
        g_free(*to[i]);
        *to[i] = g_strdup(token->text);
        st->next++;
    }
    if (!command->says_on) command->says_on = g_ptr_array_new_with_free_func(g_free);
    if (!statement_take_word(st, "on")) return true;
    do {
        char *link = statement_name(st, "a link");
        if (!link) return false;
        g_ptr_array_add(command->says_on, link);
    } while (statement_peek(st)->kind == TOKEN_WORD && !is_attribute(statement_peek(st)->text));
    return true;
}

static bool is_error(const char *name)
{
#define ERROR(number, id, its, sentence) \
    if (!strcmp(name, its)) return true;
    RLX_REPLY_ERRORS(ERROR)
#undef ERROR
    return false;
}

static bool is_reason(const char *word)
{
    if (!g_ascii_islower(*word) || strlen(word) > 16) return false;
    return strspn(word, "abcdefghijklmnopqrstuvwxyz0123456789_") == strlen(word);
}

bool lex_read_refuses(struct statement *st, struct lex_command *command)
{
    struct lexicon *lx = st->lx;
    struct token *token = statement_peek(st);
    if (command->effect.kind != LEX_CALL) {
        lex_fault(lx, token->place, "only a function refuses with reasons of its own");
        return false;
    }
    char **words = g_strsplit(token->kind == TOKEN_WORD ? token->text : "", "|", -1);
    bool ok = true;
    if (!command->refuses) command->refuses = g_ptr_array_new_with_free_func(g_free);
    for (char **w = words; ok && (*w || w == words); w++) {
        ok = *w && is_reason(*w) && !is_error(*w);
        if (!ok) {
            bool error = *w && is_error(*w);
            lex_fault(lx, token->place, "%s%s%s%s", *w ? "'" : "", *w ? *w : "", *w ? "': " : "",
                      error ? "an error of the library; choose another word"
                            : "expected reasons like jammed|cold, of small letters, digits and _, "
                              "16 at most");
        } else {
            g_ptr_array_add(command->refuses, g_strdup(*w));
            if (!g_ptr_array_find_with_equal_func(lx->reasons, *w, g_str_equal, NULL))
                g_ptr_array_add(lx->reasons, g_strdup(*w));
        }
    }
    g_strfreev(words);
    if (ok && lx->reasons->len > RLX_MOST_REASON) {
        lex_fault(lx, token->place, "there are at most %d reasons in a lexicon", RLX_MOST_REASON);
        ok = false;
    }
    if (ok) st->next++;
    return ok;
}

/* answers {slot} {slot}: what its handler fills in */
static bool read_answers(struct statement *st, struct lex_command *command)
{
    struct token *token = statement_peek(st);
    if (command->effect.kind != LEX_CALL || command->told) {
        lex_fault(st->lx, token->place,
                  command->told
                      ? "a second 'answers'"
                      : "only a function answers with values: => move() answers {took 0..60s}");
        return false;
    }
    GPtrArray *told = lex_read_told(st, "command");
    if (!told->len)
        lex_fault(st->lx, token->place, "expected what it answers with, like {took 0..60s}");
    lex_command_tells(command, told);
    return told->len > 0;
}

bool read_command_attributes(struct statement *st, struct lex_command *command)
{
    for (;;) {
        if (statement_take_word(st, "expires")) {
            struct lex_place place = statement_peek(st)->place;
            if (!statement_time_by(st, LEX_EXPIRES, 10, RLX_LASTS_MAX, &command->expires,
                                   &command->expires_by))
                return false;
            if (command->effect.kind == LEX_CALL || command->effect.kind == LEX_RUN)
                lex_fault(st->lx, place,
                          "only a command to an output expires: nobody knows the "
                          "safe state of a %s",
                          command->effect.kind == LEX_CALL ? "function" : "routine");
        } else if (statement_take_word(st, "newest")) {
            command->newest = true;
        } else if (statement_take_word(st, "refuses")) {
            if (!lex_read_refuses(st, command)) return false;
        } else if (statement_take_word(st, "answers")) {
            if (!read_answers(st, command)) return false;
        } else if (statement_take_word(st, "says")) {
            if (!read_says(st, command)) return false;
        } else if (statement_take_word(st, "only")) {
            if (!lex_read_guards(st, command)) return false;
        } else if (statement_take_word(st, "code")) {
            if (!lex_read_code(st, command)) return false;
        } else {
            if (!command->told || (!command->says && !command->newest)) return true;
            lex_fault(st->lx, command->place,
                      "a command that answers with values has no '%s' beside it",
                      command->says ? "says" : "newest");
            return false;
        }
    }
}

char *lex_effect_argument(const struct lexicon *lx, const struct lex_effect *effect)
{
    const struct lex_output *out = lx->outputs->pdata[effect->output];
    bool own =
        lex_kind_of(out)->levels == LEX_LEVELS_OWN &&
        (effect->kind == LEX_LEVEL || (effect->verb && effect->verb->behind == RLX_BEHIND_STEPS));
    bool time = effect->verb && effect->verb->behind == RLX_BEHIND_TIME;
    struct lex_element any = {.form = time ? LEX_TIME : LEX_WHOLE};
    const struct lex_element *e = own ? out->range : &any;
    const char *unit =
        own                                        ? out->range->unit
        : effect->kind == LEX_LEVEL                ? "%"
        : !effect->verb || time                    ? ""
        : effect->verb->behind == RLX_BEHIND_HERTZ ? "Hz"
        : effect->verb->behind == RLX_BEHIND_LEVEL || effect->verb->behind == RLX_BEHIND_SPEED ? "%"
                                                                                               : "";
    GString *text = g_string_new(NULL);
    if (effect->verb && effect->verb->behind == RLX_BEHIND_PATTERN) {
        const struct lex_pattern *pattern = lx->patterns->pdata[effect->argument];
        g_string_append(text, pattern->name);
    } else if (effect->argument_fixed) {
        char *value = lex_value_text(e, effect->argument);
        g_string_append_printf(text, "%s%s", value, unit ? unit : "");
        g_free(value);
    }
    if (effect->lasts) {
        struct lex_element ms = {.form = LEX_TIME};
        char *value = effect->lasts_by ? g_strdup(effect->lasts_by)
                                       : lex_value_text(&ms, (int32_t)effect->lasts);
        g_string_append_printf(text, "%sfor %s", text->len ? " " : "", value);
        g_free(value);
    }
    return g_string_free(text, FALSE);
}
