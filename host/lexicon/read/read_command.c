/* Reads `command`, and checks its slots against the output that they act on.
 * What an output understands comes from its kind and the list of verbs.
 * The effect behind '=>' is in read_effect.c. */
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"

#include <stdlib.h>
#include <string.h>

#include "rlx/drive.h"

#define SLOTS_MAX 15
/* Words and slots of one command: a frame holds no more. */
#define ELEMENTS_MAX 127
/* Spellings of its words, with fillers: each is a path of its own in the tables. */
#define WAYS_MAX 1000

/* word, (filler), or word|spelling|spelling */
static struct lex_element *read_word(struct lexicon *lx, const struct token *token)
{
    struct lex_element *e = g_new0(struct lex_element, 1);
    const char *why;
    size_t length = strlen(token->text);
    e->kind = LEX_WORD;
    e->place = token->place;
    e->filler = length > 2 && token->text[0] == '(' && token->text[length - 1] == ')';
    char *word = g_strndup(token->text + e->filler, length - 2 * e->filler);
    if (strchr(word, '|')) {
        lex_read_words(lx, e, word);
        e->kind = LEX_WORD;
        e->text = g_strdup(e->words->pdata[0]);
    } else {
        e->text = lex_spelt(lx, word);
        if (!lex_word_ok(word, &why)) lex_fault(lx, token->place, "'%s': %s", word, why);
    }
    g_free(word);
    return e;
}

/* {height 0..400}mm: the unit stands right behind the slot, and is required. */
static void read_glued(struct statement *st, struct lex_command *command, struct token *slot)
{
    struct token *next = slot + 1;
    struct lex_element *e = command->elements->pdata[command->elements->len - 1];
    if (next->kind != TOKEN_WORD || next->place.column != slot->place.column + slot->place.length)
        return;
    st->next++;
    if (!lex_has_numbers(e) || e->unit || e->form == LEX_TIME) {
        lex_fault(st->lx, next->place,
                  e->unit || e->form == LEX_TIME ? "the slot has its unit already"
                                                 : "a unit belongs to a number");
        return;
    }
    lex_read_unit(st->lx, e, next->text);
    e->glued = true;
}

static bool touches(const struct token *token)
{
    return token[1].kind == TOKEN_SLOT &&
           token[1].place.column == token->place.column + token->place.length;
}

/* g{0..255}: the word touches the number behind it. */
static void read_prefix(struct lexicon *lx, struct lex_command *command, const struct token *token)
{
    const char *why;
    struct lex_element *e = command->elements->pdata[command->elements->len - 1];
    if (e->kind != LEX_NUMBER)
        lex_fault(lx, token->place, "only a number may touch the word before it");
    else if (!lex_word_ok(token->text, &why))
        lex_fault(lx, token->place, "'%s': %s", token->text, why);
    else if (e->optional)
        lex_fault(lx, token->place, "a number that touches a word cannot be left out");
    else if (g_ascii_isdigit(token->text[strlen(token->text) - 1]) ||
             g_str_has_suffix(token->text, "-"))
        lex_fault(lx, token->place,
                  "'%s' ends like a number: nobody could see where the slot begins", token->text);
    e->prefix = lex_spelt(lx, token->text);
}

static void read_pattern(struct statement *st, struct lex_command *command)
{
    for (;;) {
        struct token *token = statement_peek(st);
        if (token->kind == TOKEN_SLOT) {
            g_ptr_array_add(command->elements, lex_read_slot(st->lx, token));
            read_glued(st, command, token);
        } else if (token->kind == TOKEN_WORD && touches(token)) {
            struct token *slot = &token[1];
            st->next++;
            g_ptr_array_add(command->elements, lex_read_slot(st->lx, slot));
            read_prefix(st->lx, command, token);
            read_glued(st, command, slot);
        } else if (token->kind == TOKEN_WORD) {
            g_ptr_array_add(command->elements, read_word(st->lx, token));
        } else {
            return;
        }
        st->next++;
    }
}

static unsigned ways_to_say(const struct lex_command *command)
{
    unsigned ways = 1;
    for (unsigned i = 0; i < command->elements->len && ways <= WAYS_MAX; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) ways *= lex_spellings(e) + e->filler;
    }
    return ways;
}

static unsigned values_of(const struct lex_command *command)
{
    unsigned values = 0;
    for (unsigned i = 0; i < command->elements->len; i++)
        values += lex_slot_values(command->elements->pdata[i]);
    return values;
}

/* Text to the end of the line comes last. */
static void check_rest(struct lexicon *lx, const struct lex_command *command)
{
    for (unsigned i = 0; i + 1 < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_TEXT && e->rest)
            lex_fault(lx, e->place, "text to the end of the line can only come last");
    }
}

/* No required piece stands behind an optional one. */
static void check_optional(struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_element *left_out = NULL;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->optional) left_out = e;
        if (left_out && !e->optional)
            lex_fault(
                lx, left_out->place,
                "only the last slots of a command may have a value for when they are left out");
        if (left_out && !e->optional) return;
    }
}

/* The output behind a command's arrow; NULL: something else stands there. *arrow: where that is. */
static const struct lex_output *output_behind(const struct statement *st, unsigned *arrow)
{
    const struct token *tokens = &g_array_index(st->tokens, struct token, 0);
    unsigned n = st->next;
    while (tokens[n].kind == TOKEN_WORD || tokens[n].kind == TOKEN_SLOT) n++;
    int index = tokens[n].kind == TOKEN_ARROW && tokens[n + 1].kind == TOKEN_WORD
                    ? lexicon_output_index(st->lx, tokens[n + 1].text)
                    : -1;
    *arrow = n;
    return index < 0 ? NULL : st->lx->outputs->pdata[index];
}

/* Whether one of the words in a slot is a position. */
static bool has_position(const struct lex_output *out, const char *slot)
{
    bool has = false;
    char **words = g_strsplit_set(slot, "|= ", -1);
    for (unsigned i = 0; words[i]; i++) has |= lex_position_of(out, words[i]) != NULL;
    g_strfreev(words);
    return has;
}

/* Whether the slot names a routine: {which dusk|dawn}, before '=> which'. */
static bool names_routine(const struct lexicon *lx, const char *slot, const char *effect)
{
    size_t n = strlen(effect);
    if (strncmp(slot, effect, n) != 0 || slot[n] != ' ') return false;
    char *first = g_strndup(slot + n + 1, strcspn(slot + n + 1, "|"));
    bool is = lexicon_routine_index(lx, g_strstrip(first)) >= 0;
    g_free(first);
    return is;
}

/* The choice that becomes a command for each of its words: it stands first before an output, has
 * the names of positions or, before its own name, of routines. NULL: there is none. */
static struct token *choice_of_each(struct statement *st, unsigned *arrow)
{
    const struct lex_output *out = output_behind(st, arrow);
    struct token *tokens = &g_array_index(st->tokens, struct token, 0), *choice = NULL;
    const char *effect = tokens[*arrow].kind == TOKEN_ARROW && tokens[*arrow + 1].kind == TOKEN_WORD
                             ? tokens[*arrow + 1].text
                             : "";
    for (unsigned n = st->next; !out && *effect && n < *arrow; n++)
        if (tokens[n].kind == TOKEN_SLOT && names_routine(st->lx, tokens[n].text, effect))
            return &tokens[n];
    for (unsigned n = st->next; out && n < *arrow; n++) {
        if (tokens[n].kind != TOKEN_SLOT) continue;
        bool first = n == st->next && n + 1 == *arrow && strchr(tokens[n].text, '|');
        if (choice) return NULL; /* two slots */
        if (!first && !has_position(out, tokens[n].text)) return NULL;
        choice = &tokens[n];
    }
    return choice;
}

/* command {forward|back|stop} => OUTPUT ..., command weir {open|closed} => weir ...: a command for
 * each of the words, as if each had a line of its own. False: it is something else. */
static bool read_each(struct statement *st)
{
    unsigned arrow = 0, faults = st->lx->faults->len;
    struct token *slot = choice_of_each(st, &arrow);
    struct lex_element *choice = slot ? lex_read_slot(st->lx, slot) : NULL;
    if (!choice) return false;
    struct token *first = statement_peek(st),
                 *effect = &g_array_index(st->tokens, struct token, arrow);
    unsigned before = (unsigned)(slot - first), behind = (unsigned)(effect - slot) - 1;
    unsigned rest = st->tokens->len - arrow - 2;
    const bool runs = lexicon_output_index(st->lx, effect[1].text) < 0; /* the word is a routine */
    bool wrong = st->lx->faults->len != faults;
    bool each = choice->kind == LEX_CHOICE && !choice->optional && !wrong;
    if (choice->kind == LEX_CHOICE && choice->optional && before) {
        lex_fault(st->lx, slot->place, "a choice of positions cannot be left out");
        wrong = true;
    }
    for (unsigned i = 0; each && i < choice->words->len; i++) {
        const struct token word = {TOKEN_WORD, slot->place, choice->words->pdata[i]};
        struct statement one = {st->lx, g_array_new(FALSE, FALSE, sizeof word), 0};
        g_array_append_vals(one.tokens, first, before);
        g_array_append_val(one.tokens, word);
        g_array_append_vals(one.tokens, slot + 1, behind);
        g_array_append_vals(one.tokens, effect, runs ? 1 : 2);
        g_array_append_val(one.tokens, word);
        g_array_append_vals(one.tokens, effect + 2, rest);
        read_command(&one);
        g_array_free(one.tokens, TRUE);           /* the texts are the statement's */
        if (st->lx->faults->len != faults) break; /* the others have the same */
    }
    lex_element_free(choice);
    return each || wrong;
}

/* command quit => bye: other words for a built-in one. They are kept as a number's digits are. */
static void read_other_word(struct statement *st, const struct lex_command *command)
{
    struct lexicon *lx = st->lx;
    struct token *word = statement_peek(st) + 1;
    char *text = lex_command_text(command);
    st->next += 2;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD && !e->words && !e->filler) continue;
        lex_fault(lx, e->place, "other words for '%s' have one spelling, and no slots", word->text);
        break;
    }
    for (unsigned i = 0; i < lx->numbers->len; i++)
        if (!strcmp(((struct lex_number *)lx->numbers->pdata[i])->said, text))
            lex_fault(lx, command->place, "'%s' stands for something already", text);
    struct lex_number *number = g_new0(struct lex_number, 1);
    *number = (struct lex_number){command->place, text, g_strdup(word->text)};
    g_ptr_array_add(lx->numbers, number);
    g_free(statement_title(st));
}

/* command PATTERN => EFFECT ["title"] */
void read_command(struct statement *st)
{
    struct lexicon *lx = st->lx;
    if (read_each(st)) return;
    struct lex_command *command = g_new0(struct lex_command, 1);
    unsigned faults = lx->faults->len;
    bool other = false;
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    command->place = statement_peek(st)->place;
    read_pattern(st, command);
    struct token *token = statement_peek(st);
    struct lex_element *first = command->elements->len ? command->elements->pdata[0] : NULL;
    check_optional(lx, command);
    check_rest(lx, command);
    if (!first || (first->kind != LEX_NUMBER && !lex_has_spellings(first)) || first->filler ||
        first->optional) {
        lex_fault(
            lx, first ? first->place : token->place,
            "a command begins with a word, a choice or a number; write one before this, like 'pump "
            "{on|off}'");
    } else if (command->elements->len > ELEMENTS_MAX) {
        lex_fault(lx, command->place, "more than %d words and slots in one command", ELEMENTS_MAX);
    } else if (ways_to_say(command) > WAYS_MAX) {
        lex_fault(lx, command->place,
                  "more than %d spellings: use fewer words that may be left out or spelt otherwise",
                  WAYS_MAX);
    } else if (values_of(command) > SLOTS_MAX) {
        lex_fault(lx, command->place,
                  "more than %d slots in one command; a list counts its most numbers and one",
                  SLOTS_MAX);
    } else if (token->kind != TOKEN_ARROW) {
        lex_fault(lx, token->place, "expected '=>' and what the command does");
    } else if (token[1].kind == TOKEN_WORD && lex_said_built_in(token[1].text) &&
               lexicon_output_index(lx, token[1].text) < 0) {
        other = true;
        if (lx->faults->len == faults) read_other_word(st, command);
    } else {
        st->next++;
        if (read_effect(st, command) && read_command_attributes(st, command))
            command->title = statement_title(st);
        if (first->kind == LEX_CHOICE && command->effect.kind != LEX_CALL &&
            lx->faults->len == faults)
            lex_fault(
                lx, first->place,
                "before a function, or alone before an output, a choice can come first; write "
                "a word before this one");
    }
    if (lx->faults->len == faults && !other)
        g_ptr_array_add(lx->commands, command);
    else
        lex_command_free(command);
}

/* The values that an argument may have; a way to go is as long as the range at most. */
static void argument_range(const struct lex_output *out, enum rlx_behind behind, int32_t *low,
                           int32_t *high, const char **unit)
{
    enum lex_levels levels = lex_kind_of(out)->levels;
    bool own = levels == LEX_LEVELS_OWN && out->range, percent = behind >= RLX_BEHIND_LEVEL;
    *low = own ? out->range->low : lex_behinds[behind].least;
    *high = own ? out->range->high : lex_behinds[behind].most;
    *unit = own ? out->range->unit : percent ? "%" : behind == RLX_BEHIND_HERTZ ? "Hz" : NULL;
    if (levels == LEX_LEVELS_SIGNED) *low = lex_behinds[RLX_BEHIND_SPEED].least;
    if (own && behind == RLX_BEHIND_STEPS) {
        *high -= *low;
        *low = -*high;
    }
}

static void wrong(struct lexicon *lx, const struct lex_element *slot, char *text, char *witness)
{
    struct lex_fault *fault = lex_find(lx, LEX_D14, slot->place, "%s", text);
    fault->witness = witness;
    g_free(text);
}

static int64_t ten_to(unsigned decimals)
{
    int64_t power = 1;
    while (decimals--) power *= 10;
    return power;
}

/* A slot that is an output's level, count, time or pitch must hold what the output can take. */
static void check_value_slot(struct lexicon *lx, const struct lex_output *out,
                             const struct lex_element *slot, enum rlx_behind behind)
{
    int32_t low, high, from = slot->scaled ? MIN(slot->to_low, slot->to_high) : slot->low;
    int32_t to = slot->scaled ? MAX(slot->to_low, slot->to_high) : slot->high;
    const char *unit;
    if (lex_lacks_range(out)) return;
    argument_range(out, behind, &low, &high, &unit);
    bool time = behind == RLX_BEHIND_TIME;
    struct lex_element plain = {.form = time         ? LEX_TIME
                                        : out->range ? out->range->form
                                                     : LEX_WHOLE,
                                .low = low,
                                .high = high,
                                .decimals = out->range ? out->range->decimals : 0};
    char *wanted = lex_range_text(&plain), *range = lex_range_text(slot);
    int64_t its = ten_to(plain.decimals), ours = ten_to(slot->scaled ? 0 : slot->decimals);
    if (slot->kind != LEX_NUMBER || (slot->form == LEX_TIME) != time)
        wrong(lx, slot,
              g_strdup_printf("'%s' takes %s %s%s here", out->name, time ? "a time," : "a number,",
                              wanted, unit ? unit : ""),
              NULL);
    else if (from * its < low * ours || to * its > high * ours) {
        int32_t at_low = slot->scaled ? slot->to_low : slot->low;
        bool first = at_low * its < low * ours || at_low * its > high * ours;
        wrong(
            lx, slot,
            g_strdup_printf("'%s' takes %s%s, not %s", out->name, wanted, unit ? unit : "", range),
            lex_value_text(slot, first ? slot->low : slot->high));
    } else if (slot->unit && unit && strcmp(slot->unit, unit) != 0)
        wrong(lx, slot,
              g_strdup_printf("'%s' takes a level in %s, not in '%s'", out->name, unit, slot->unit),
              NULL);
    g_free(wanted);
    g_free(range);
}

/* Each word of a choice is a verb of the output that needs no value. */
static void check_choice_slot(struct lexicon *lx, const struct lex_output *out,
                              const struct lex_element *slot)
{
    for (unsigned i = 0; i < out->members->len; i++) {
        if (!g_ptr_array_find_with_equal_func(slot->words, out->members->pdata[i], g_str_equal,
                                              NULL))
            continue;
        GString *members = g_string_new(NULL);
        for (unsigned k = 0; k < out->members->len; k++)
            g_string_append_printf(members, "%s%s", k ? "|" : "", (char *)out->members->pdata[k]);
        wrong(lx, slot,
              g_strdup_printf("the outputs of the group '%s' stand in a set: write {set %s}",
                              out->name, members->str),
              g_strdup(out->members->pdata[i]));
        g_string_free(members, TRUE);
        return;
    }
    for (unsigned i = 0; i < slot->words->len; i++) {
        const char *word = slot->words->pdata[i];
        const struct lex_verb *verb = lex_verb_of(out, word);
        if (verb && verb->behind == RLX_BEHIND_NONE) continue;
        char *all = lex_verbs_of(out, true);
        wrong(lx, slot,
              verb ? g_strdup_printf("'%s' alone has no value; write '=> %s %s'", word, out->name,
                                     word)
                   : g_strdup_printf("'%s' understands %s, not '%s'", out->name, all, word),
              g_strdup(word));
        g_free(all);
    }
}

/* A set of a group's outputs: those named are on, the others off. */
static void check_set_slot(struct lexicon *lx, const struct lex_output *out,
                           const struct lex_element *slot)
{
    bool same = slot->words->len == out->members->len;
    for (unsigned i = 0; same && i < slot->words->len; i++)
        same = !g_ascii_strcasecmp(slot->words->pdata[i], out->members->pdata[i]);
    if (!same)
        wrong(
            lx, slot,
            out->members->len
                ? g_strdup_printf("the set's words are the outputs of the group '%s', in its order",
                                  out->name)
                : g_strdup_printf("only a group takes a set of outputs; '%s' is none", out->name),
            NULL);
}

/* The slots with values for the output, without the one that names it. */
static unsigned telling_slots(const struct lex_command *command,
                              const struct lex_element *slots[15])
{
    if (command->code) return 0; /* it opens, and is no value */
    unsigned n = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind != LEX_WORD && e != command->effect.which && n < 15) slots[n++] = e;
    }
    return n;
}

/* The microseconds or steps that a value of the slot is; for a way to go, so many more. */
static int32_t own_value(const struct lex_element *range, const struct lex_element *slot,
                         int32_t value, bool way)
{
    int64_t ours = ten_to(slot->scaled ? 0 : slot->decimals),
            size = lex_value_scaled(slot, value) * ten_to(range->decimals) -
                   (way ? 0 : range->low * ours),
            span = ((int64_t)range->high - range->low) * ours,
            twice = size * ((int64_t)range->to_high - range->to_low) * 2;
    return (int32_t)((twice + (twice < 0 ? -span : span)) / (2 * span)) + (way ? 0 : range->to_low);
}

/* What the ends of a slot become in an output's own range. */
static void set_own(const struct lex_output *out, struct lex_element *slot, bool way)
{
    slot->own = slot->kind == LEX_NUMBER && slot->low < slot->high && !lex_lacks_range(out);
    if (!slot->own) return;
    slot->own_low = own_value(out->range, slot, slot->low, way);
    slot->own_high = own_value(out->range, slot, slot->high, way);
}

/* A slot for an output must have values that the output understands. */
static void check_output_slot(struct lexicon *lx, struct lex_command *command,
                              const struct lex_output *out)
{
    const struct lex_kind *kind = lex_kind_of(out);
    const struct lex_element *slots[15];
    struct lex_effect *effect = &command->effect;
    unsigned n = telling_slots(command, slots);
    bool takes = effect->verb && effect->verb->behind != RLX_BEHIND_NONE && !effect->argument_fixed;
    if (takes && n == 1) {
        check_value_slot(lx, out, slots[0], effect->verb->behind);
        if (effect->verb->behind == RLX_BEHIND_STEPS)
            set_own(out, (struct lex_element *)slots[0], true);
    } else if (takes) {
        lex_find(lx, LEX_D14, command->place,
                 "'%s %s' needs to know how much: give the command one slot", out->name,
                 effect->verb->word);
    } else if (effect->fixed >= 0 && n) {
        lex_find(lx, LEX_D14, slots[0]->place, "what '%s' does stands behind '=>' already",
                 out->name);
    } else if (effect->fixed >= 0) {
        return;
    } else if (kind->values == 2 && n == 2) {
        effect->kind = LEX_LEVEL;
        check_value_slot(lx, out, slots[0], RLX_BEHIND_LEVEL);
        check_value_slot(lx, out, slots[1], RLX_BEHIND_LEVEL);
    } else if (n != 1) {
        lex_find(lx, LEX_D14, command->place,
                 "what shall '%s' do? Give the command %s, like %s, or write '=> %s %s'", out->name,
                 kind->values == 2 ? "two slots" : "one slot", kind->slot, out->name, kind->verb);
    } else if (slots[0]->kind == LEX_CHOICE) {
        check_choice_slot(lx, out, slots[0]);
        if (!lex_is_plain(out)) {
            effect->kind = LEX_VERB;
            ((struct lex_element *)slots[0])->verbs = true;
        }
    } else if (slots[0]->kind == LEX_SET) {
        check_set_slot(lx, out, slots[0]);
        effect->kind = LEX_VERB;
    } else if (!lex_takes_level(out) || kind->values == 2) {
        char *all = lex_verbs_of(out, true);
        lex_find(lx, LEX_D14, slots[0]->place,
                 lex_is_plain(out) && !out->members->len
                     ? "'%s' is on a plain pin: %s; a level needs 'pwm N at 1kHz'"
                     : "'%s' understands %s",
                 out->name, all);
        g_free(all);
    } else {
        effect->kind = LEX_LEVEL;
        check_value_slot(lx, out, slots[0], RLX_BEHIND_LEVEL);
        if (kind->levels == LEX_LEVELS_OWN) set_own(out, (struct lex_element *)slots[0], false);
    }
}

/* Others' replies must never be taken for a command, not even for a shortened one. NULL, or the
 * reply word that this word, or its beginning, is. Owned by the caller. */
static char *reply_word_in(const struct lexicon *lx, const char *word)
{
    static const char *const words[] = {"ok", "err", "ev", "note", "ready", NULL};
    size_t length = strlen(word), least = lx->shorten ? lx->shorten : length;
    for (unsigned i = 0; words[i]; i++) {
        size_t n = strlen(words[i]);
        if (!g_ascii_strncasecmp(word, words[i], n) && (n == length || n >= least))
            return g_strdup(words[i]);
    }
    if (g_ascii_tolower(*word) != 'e') return NULL;
    size_t digits = strspn(word + 1, "0123456789");
    bool cut = digits && (1 + digits == length || 1 + digits >= least);
    return cut ? g_strndup(word, 1 + digits) : NULL;
}

static void check_first_word(struct lexicon *lx, const struct lex_element *first, const char *word)
{
    const struct lex_built_in *b = lex_said_built_in(word);
    if (b && lx->built_in & b->bit)
        lex_find(lx, LEX_D04, first->place, "'%s' is built in already", word);
    char *reply = reply_word_in(lx, word);
    if (!reply) return;
    struct lex_fault *fault;
    if (strlen(reply) == strlen(word))
        fault = lex_find(lx, LEX_D04, first->place,
                         "no command begins with '%s': it is how replies begin, and they are never "
                         "answered",
                         word);
    else
        fault = lex_find(lx, LEX_D04, first->place,
                         "with 'shorten %u' the reply \"%s\" of another device would be taken for "
                         "'%s'",
                         lx->shorten, reply, word);
    fault->witness = reply;
}

/* An implied command is wanted once, and only if no other has the same text. */
static void drop_needless(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        bool said = false;
        for (unsigned k = 0; command->implied && k < lx->commands->len; k++)
            said |= k != i && lex_command_says(lx, lx->commands->pdata[k], command->implied);
        if (said) g_ptr_array_remove_index(lx->commands, i--);
    }
}

/* Whether the command takes the number, or reads it as one of its values out of range. */
static bool takes_number(const struct lexicon *lx, const struct lex_command *command,
                         const char *said)
{
    const struct lex_element *first = command->elements->pdata[0];
    const struct lex_element *second =
        command->elements->len > 1 ? command->elements->pdata[1] : NULL;
    bool alone = !second || second->filler || second->optional;
    bool shaped = first->kind == LEX_NUMBER && lex_number_shaped(first, said);
    return (alone && shaped) || lex_command_says(lx, command, said);
}

/* A number, or other words, stand for what a command or a built-in word is, and for nothing else.
 */
static void check_number(struct lexicon *lx, const struct lex_number *number)
{
    const struct lex_built_in *built_in = lex_said_built_in(number->text);
    bool said = built_in, digits = lex_is_digits(number->said);
    char *first = g_strndup(number->said, strcspn(number->said, " "));
    char *reply = digits ? NULL : reply_word_in(lx, first);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        said |= lex_command_says(lx, command, number->text);
        if (!takes_number(lx, command, number->said)) continue;
        char *text = lex_command_text(command);
        struct lex_fault *fault =
            digits
                ? lex_find(lx, LEX_D19, number->place, "%s is a value of '%s' in line %u, too",
                           number->said, text, command->place.line)
                : lex_find(lx, LEX_D03, number->place, "\"%s\" is also a text of '%s' in line %u",
                           number->said, text, command->place.line);
        fault->witness = g_strdup(number->said);
        g_free(text);
    }
    if (!said)
        lex_find(lx, LEX_D15, number->place, "%s stands for \"%s\", which no command takes",
                 number->said, number->text);
    if (built_in && !(lx->built_in & built_in->bit))
        lex_fault(lx, number->place, "'%s' is not built in; write 'built-in %s'", number->text,
                  number->text);
    if (reply || lex_said_built_in(number->said))
        lex_find(lx, LEX_D04, number->place, "'%s' is how replies begin, or is built in already",
                 number->said);
    g_free(first);
    g_free(reply);
}

void finish_commands(struct lexicon *lx)
{
    drop_needless(lx);
    for (unsigned i = 0; i < lx->numbers->len; i++) check_number(lx, lx->numbers->pdata[i]);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        struct lex_element *first = command->elements->pdata[0];
        for (unsigned k = 0; lex_has_spellings(first) && k < lex_spellings(first); k++)
            check_first_word(lx, first, lex_spelling(first, k));
        const struct lex_element *which = command->effect.which;
        for (unsigned k = 0; which && k < which->words->len; k++)
            check_output_slot(lx, command, lx->outputs->pdata[which->outputs[k]]);
        struct lex_output *out = lex_effect_output(lx, &command->effect);
        if (out && !which) check_output_slot(lx, command, out);
        if (command->effect.kind == LEX_RUN && lex_command_slots(command))
            lex_find(lx, LEX_D14, command->place, "a routine takes no values: leave the slots out");
    }
}
