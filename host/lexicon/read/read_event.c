/* Reads what a device sends and keeps: events, queries, settings, routines.
 * What needs the rest of the file is checked after its last line.
 * It writes nothing into the image. */
#include <string.h>

#include "lexicon/kind.h"
#include "lexicon/read/reader.h"
#include "lexicon/slot.h"
#include "rlx/config.h"
#include "rlx/drive.h"
#include "rlx/image.h"

/* ---- events ---- */

static bool event_to(struct statement *st, void *target)
{
    struct lex_event *event = target;
    do {
        struct token *token = statement_peek(st);
        size_t length = token->kind == TOKEN_WORD ? strlen(token->text) : 0;
        if (length > 1 && token->text[length - 1] == ',') token->text[length - 1] = 0;
        char *name = statement_name(st, "a link");
        if (!name) return false;
        g_ptr_array_add(event->to, name);
    } while (statement_peek(st)->kind == TOKEN_WORD && !lex_is_event_attribute(st));
    return true;
}

static bool event_confirmed(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_event *)target)->confirmed = true;
    return true;
}

static bool event_kept(struct statement *st, void *target)
{
    (void)st;
    ((struct lex_event *)target)->kept = true;
    return true;
}

static bool event_every(struct statement *st, void *target)
{
    return statement_time(st, "the minimum time between two of them", 1, 86400000,
                          &((struct lex_event *)target)->every);
}

/* at most N a day */
static bool event_at(struct statement *st, void *target)
{
    if (!statement_take_word(st, "most")) goto bad;
    if (!statement_number(st, "how many a day", 1, 65535, &((struct lex_event *)target)->per_day))
        return false;
    if (statement_take_word(st, "a") && statement_take_word(st, "day")) return true;
bad:
    lex_fault(st->lx, statement_peek(st)->place, "expected like: at most 20 a day");
    return false;
}

static const struct attribute event_attributes[] = {
    {"to", event_to, 0},     {"confirmed", event_confirmed, 0},
    {"kept", event_kept, 0}, {"every", event_every, 0},
    {"at", event_at, 0},     {NULL, NULL, 0}};

bool lex_is_event_attribute(struct statement *st)
{
    for (const struct attribute *a = event_attributes; a->word; a++)
        if (!strcmp(statement_peek(st)->text, a->word)) return true;
    return false;
}

/* Words of its own, by their places: for on and off, and for an input's held. */
static bool are_own(const struct lex_event *event, const char *const *words, unsigned most)
{
    bool named = event->what->words->len > most;
    for (unsigned i = 0; i < event->what->words->len; i++)
        named |= g_strv_contains(words, event->what->words->pdata[i]);
    return !named;
}

/* The words that its source can send. */
static void check_source_words(struct lexicon *lx, const struct lex_event *event)
{
    static const char *const of_routines[] = {"done", "stopped", "failed", NULL};
    int output = lexicon_output_index(lx, event->input);
    const struct lex_output *out = output >= 0 ? lx->outputs->pdata[output] : NULL;
    const char *const *words = out ? lex_kind_of(out)->words
                               : lexicon_routine_index(lx, event->input) >= 0 ? of_routines
                                                                              : lex_input_words;
    bool may_own = words == lex_input_words || (out && lex_kind_of(out)->switches);
    if (may_own && are_own(event, words, out ? 2 : 3)) return;
    if (out && !*words) return; /* it has none: a fault when everything is read */
    for (unsigned i = 0; event->what && i < event->what->words->len; i++) {
        if (g_strv_contains(words, event->what->words->pdata[i])) continue;
        char *all = g_strjoinv(", ", (char **)words);
        lex_fault(lx, event->what->place, "'%s' sends %s, not '%s'%s", event->input, all,
                  (char *)event->what->words->pdata[i],
                  words == lex_input_words
                      ? "; or three words of your own at most: when it goes on, goes off, is held"
                  : may_own ? "; or two words of your own: when it goes on, goes off"
                            : "");
        g_free(all);
        if (may_own) return;
    }
}

/* event NAME [{a|b}] [<= INPUT] [to LINK, LINK] [confirmed [kept]] [every T] [at most N a day] */
void read_event(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_event *event = g_new0(struct lex_event, 1);
    event->to = g_ptr_array_new_with_free_func(g_free);
    event->place = statement_peek(st)->place;
    event->name = statement_name(st, "the event's name");
    if (!event->name) event->name = g_strdup("");
    if (*event->name && lexicon_event(lx, event->name))
        lex_fault(lx, event->place, "a second event '%s'", event->name);
    g_ptr_array_add(lx->events, event);
    if (!*event->name) return;
    struct token *token = statement_peek(st);
    if (token->kind == TOKEN_SLOT) {
        unsigned faults = lx->faults->len;
        event->what = lex_read_slot(lx, statement_take(st));
        bool choice = event->what->kind == LEX_CHOICE;
        if (!choice && lx->faults->len == faults)
            lex_fault(lx, token->place, "an event's value is one of some words: {a|b}");
        if (choice && event->what->words->len > RLX_EVENT_WORDS)
            lex_fault(lx, token->place, "an event has at most %u words", RLX_EVENT_WORDS);
    }
    if (statement_peek(st)->kind == TOKEN_FROM) {
        st->next++;
        event->input = statement_name(st, "the input that it comes from");
        if (!event->input) return;
        if (event->what && event->what->words) check_source_words(lx, event);
    }
    if (!statement_attributes(st, event_attributes, 0, statement_any_kind, "event", event)) return;
    event->title = statement_title(st);
    if (event->kept && !event->confirmed)
        lex_fault(lx, event->place,
                  "'%s' is kept until somebody says that it came: write 'confirmed kept'",
                  event->name);
}

void lex_event_free(void *p)
{
    struct lex_event *event = p;
    if (event->what) lex_element_free(event->what);
    g_ptr_array_free(event->to, TRUE);
    g_free(event->name);
    g_free(event->title);
    g_free(event->input);
    g_free(event);
}

/* ---- queries ---- */

/* What asks it: NAME? */
static struct lex_command *asked(const struct lexicon *lx, const struct lex_query *query)
{
    struct lex_command *command = g_new0(struct lex_command, 1);
    struct lex_element *word = g_new0(struct lex_element, 1);
    char *name = lex_spelt(lx, query->name);
    word->place = command->place = query->place;
    word->kind = LEX_WORD;
    word->text = g_strconcat(name, "?", NULL);
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    g_ptr_array_add(command->elements, word);
    command->effect =
        (struct lex_effect){.kind = LEX_CALL, .handler = g_strdup(query->handler), .fixed = -1};
    command->query = query;
    for (unsigned i = 0; i < query->of->len; i++)
        g_ptr_array_add(command->elements, query->of->pdata[i]);
    lex_command_tells(command, query->elements);
    g_free(name);
    return command;
}

GPtrArray *lex_read_told(struct statement *st, const char *who)
{
    GPtrArray *told = g_ptr_array_new_with_free_func(lex_element_free);
    while (statement_peek(st)->kind == TOKEN_SLOT) {
        struct lex_element *slot = lex_read_slot(st->lx, statement_take(st));
        g_ptr_array_add(told, slot);
        if (!lex_slot_of(slot)->answers || slot->scaled)
            lex_fault(st->lx, slot->place,
                      "a %s answers with numbers, words and sets: no text, list or scaled number",
                      who);
    }
    return told;
}

/* of {slot} {slot}: what is asked for. Owned by the caller. */
static GPtrArray *read_of(struct statement *st)
{
    GPtrArray *of = g_ptr_array_new();
    if (!statement_take_word(st, "of")) return of;
    while (statement_peek(st)->kind == TOKEN_SLOT) {
        struct lex_element *slot = lex_read_slot(st->lx, statement_take(st));
        g_ptr_array_add(of, slot);
        if (slot->optional || !lex_slot_of(slot)->answers)
            lex_fault(
                st->lx, slot->place,
                "behind 'of' stand numbers, words and sets: no text or list, and nothing that "
                "may be left out");
    }
    if (!of->len)
        lex_fault(st->lx, statement_peek(st)->place,
                  "expected what is asked for, like of {probe 1..4}");
    return of;
}

/* query NAME {slot} {slot} [of {slot} ...] => FUNCTION() */
void read_query(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_query *query = g_new0(struct lex_query, 1);
    query->place = statement_peek(st)->place;
    query->name = statement_name(st, "the query's name");
    g_ptr_array_add(lx->queries, query);
    if (!query->name) {
        query->name = g_strdup("");
        query->elements = g_ptr_array_new_with_free_func(lex_element_free);
        return;
    }
    for (unsigned i = 0; i + 1 < lx->queries->len; i++)
        if (!strcmp(((struct lex_query *)lx->queries->pdata[i])->name, query->name))
            lex_fault(lx, query->place, "a second query '%s'", query->name);
    query->elements = lex_read_told(st, "query");
    struct token *token = statement_peek(st);
    if (!query->elements->len) {
        lex_fault(lx, token->place, "expected what is answered, like {mm 0..4000}");
        return;
    }
    query->of = read_of(st);
    token = statement_peek(st);
    if (token->kind != TOKEN_ARROW) {
        lex_fault(lx, token->place, "expected '=>' and the function() that knows it");
        return;
    }
    st->next++;
    token = statement_take(st);
    if (token->kind != TOKEN_WORD || !g_str_has_suffix(token->text, "()")) {
        lex_fault(lx, token->place, "expected a function(), like read_%s()", query->name);
        return;
    }
    query->handler = lex_read_function(lx, token);
    if (query->handler) query->asked = asked(lx, query);
    if (query->asked && statement_take_word(st, "refuses") && !lex_read_refuses(st, query->asked))
        return;
    query->title = statement_title(st);
}

void lex_query_free(void *p)
{
    struct lex_query *query = p;
    for (unsigned i = 0; !query->asked && query->of && i < query->of->len; i++)
        lex_element_free(query->of->pdata[i]);
    if (query->of) g_ptr_array_free(query->of, TRUE);
    if (query->asked) lex_command_free(query->asked);
    g_ptr_array_free(query->elements, TRUE);
    g_free(query->name);
    g_free(query->handler);
    g_free(query->title);
    g_free(query);
}

/* ---- settings ---- */

static bool setting_takes(const struct lexicon *lx, const struct lex_element *slot,
                          const char *value, int32_t *standard)
{
    char *said = slot->kind == LEX_TEXT ? g_strdup_printf("\"%s\"", value) : g_strdup(value);
    bool takes = lex_element_says(lx, slot, said, standard);
    g_free(said);
    return takes;
}

/* The command that stores it: its name and a value. */
static void say_setting(struct lexicon *lx, const struct lex_setting *setting,
                        struct lex_element *slot)
{
    struct lex_command *command = g_new0(struct lex_command, 1);
    struct lex_element *word = g_new0(struct lex_element, 1);
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    command->place = word->place = setting->place;
    word->text = lex_spelt(lx, setting->name);
    g_ptr_array_add(command->elements, word);
    g_ptr_array_add(command->elements, slot);
    command->effect.kind = LEX_STORE;
    command->effect.output = lx->settings->len - 1;
    command->effect.fixed = -1;
    command->made = true;
    g_ptr_array_add(lx->commands, command);
}

/* A setting of this name, unless there is one. */
static struct lex_setting *new_setting(struct lexicon *lx, struct lex_place place, char *name)
{
    struct lex_setting *setting = g_new0(struct lex_setting, 1);
    setting->place = place;
    setting->name = name;
    if (*name && lexicon_setting(lx, name)) lex_fault(lx, place, "a second setting '%s'", name);
    g_ptr_array_add(lx->settings, setting);
    return setting;
}

static void take_slot(struct lexicon *lx, struct lex_setting *setting, struct lex_element *slot)
{
    if (lx->settings->len > RLX_SETTINGS_MOST - 1)
        lex_fault(lx, setting->place, "there are at most %u settings", RLX_SETTINGS_MOST);
    say_setting(lx, setting, slot);
    setting->slot = slot;
}

void lex_add_setting(struct lexicon *lx, struct lex_place place, const char *name, const char *slot)
{
    struct token token = {TOKEN_SLOT, place, (char *)slot};
    struct lex_setting *setting = new_setting(lx, place, g_strdup(name));
    take_slot(lx, setting, lex_read_slot(lx, &token));
    setting->value = g_strdup("");
}

/* saved every 10s */
static bool read_saved(struct statement *st, struct lex_setting *setting)
{
    const char *what = "the least time between two changes that the memory takes";
    if (statement_take_word(st, "every"))
        return statement_time(st, what, 1000, RLX_WEAR_DAY, &setting->saved_every);
    lex_fault(st->lx, statement_peek(st)->place, "expected 'every', and %s", what);
    return false;
}

/* setting NAME {slot} = DEFAULT [saved every T] [only while ...] */
void read_setting(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_place place = statement_peek(st)->place;
    char *name = statement_name(st, "the setting's name");
    struct lex_setting *setting = new_setting(lx, place, name ? name : g_strdup(""));
    if (!*setting->name) return;
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_SLOT) {
        lex_fault(lx, token->place, "expected what it can be, like {0..100} or {a|b}");
        return;
    }
    struct lex_element *slot = lex_read_slot(lx, token);
    bool kept = slot->kind != LEX_LIST && !slot->rest && !slot->scaled && !slot->optional;
    if (!kept)
        lex_fault(lx, token->place, "a setting is a number, a word, a set or a text in quotes");
    take_slot(lx, setting, slot);
    token = statement_take(st);
    if (token->kind != TOKEN_EQUALS) {
        lex_fault(lx, token->place, "expected '=' and what it is when nobody has changed it");
        return;
    }
    token = statement_take(st);
    if (token->kind != TOKEN_WORD && token->kind != TOKEN_STRING) {
        lex_fault(lx, token->place, "expected a value");
        return;
    }
    setting->value = g_strdup(token->text);
    if (kept && !setting_takes(lx, setting->slot, setting->value, &setting->standard))
        lex_fault(lx, token->place, "'%s' is none of the setting's values", token->text);
    struct lex_command *command = lx->commands->pdata[lx->commands->len - 1];
    if (statement_take_word(st, "saved") && !read_saved(st, setting)) return;
    if (statement_take_word(st, "only") && !lex_read_guards(st, command)) return;
    setting->title = statement_title(st);
}

void lex_setting_free(void *p)
{
    struct lex_setting *setting = p;
    g_free(setting->name);
    g_free(setting->title);
    g_free(setting->value);
    g_free(setting);
}

/* ---- routines ---- */

static void step_free(void *p)
{
    g_free(((struct lex_step *)p)->text);
    g_free(p);
}

/* "wait 2s" */
static bool read_wait(struct lexicon *lx, struct lex_step *step, const char *text)
{
    struct lex_element any = {.kind = LEX_NUMBER, .form = LEX_TIME, .low = 1, .high = 86400000};
    int32_t value;
    if (strncmp(text, "wait ", 5) != 0) return false;
    if (g_ascii_isdigit(text[strlen(text) - 1]) || !lex_value_said(&any, text + 5, &value))
        lex_fault(lx, step->place, "'%s': a time of 1ms..24h with its unit, like 'wait 2s'", text);
    else
        step->wait = (uint32_t)value;
    return true;
}

uint64_t lex_routine_ms(const struct lex_routine *routine)
{
    uint64_t ms = 0;
    if (!routine->rounds) return UINT64_MAX;
    for (unsigned i = 0; i < routine->steps->len; i++)
        ms += ((struct lex_step *)routine->steps->pdata[i])->wait;
    return ms * routine->rounds;
}

/* A step that is a routine above becomes its steps. */
static bool read_inner(struct lexicon *lx, struct lex_routine *routine, struct lex_place place,
                       const char *name)
{
    int index = lexicon_routine_index(lx, name);
    const struct lex_routine *inner = index < 0 ? NULL : lx->routines->pdata[index];
    if (!inner || inner == routine) return false;
    if (inner->rounds != 1)
        lex_fault(lx, place, "'%s' repeats: it cannot be a step of '%s'", name, routine->name);
    for (unsigned i = 0; i < inner->steps->len; i++) {
        const struct lex_step *from = inner->steps->pdata[i];
        struct lex_step *step = g_new0(struct lex_step, 1);
        *step = (struct lex_step){place, g_strdup(from->text), from->wait};
        g_ptr_array_add(routine->steps, step);
    }
    return true;
}

/* repeat 3 times, repeat forever: it has to wait meanwhile */
static void read_rounds(struct statement *st, struct lex_routine *routine)
{
    struct token *token = statement_peek(st);
    uint64_t ms = lex_routine_ms(routine);
    routine->rounds = 0;
    if (!statement_take_word(st, "forever")) {
        if (!statement_number(st, "how often", 2, RLX_ROUTINE_ROUNDS, &routine->rounds)) return;
        if (!statement_take_word(st, "times"))
            lex_fault(st->lx, statement_peek(st)->place, "expected 'times'");
    }
    if (!ms)
        lex_fault(st->lx, token->place, "what repeats waits in each round, like: wait 1s");
    else if (routine->rounds && ms * routine->rounds > INT32_MAX)
        lex_fault(st->lx, token->place, "it lasts longer than 24 days; write 'repeat forever'");
}

/* What starts the routine, and what ends it: commands like others. */
static void say_routine(struct lexicon *lx, const struct lex_routine *routine, int verb)
{
    struct lex_command *command = g_new0(struct lex_command, 1);
    command->elements = g_ptr_array_new_with_free_func(lex_element_free);
    command->place = routine->place;
    for (unsigned i = 0; i < (verb == RLX_RUN ? 1 : 2); i++) {
        struct lex_element *word = g_new0(struct lex_element, 1);
        word->place = routine->place;
        word->text = i ? g_strdup("stop") : lex_spelt(lx, routine->name);
        g_ptr_array_add(command->elements, word);
    }
    command->effect.kind = LEX_RUN;
    command->effect.output = lx->routines->len - 1;
    command->effect.fixed = verb;
    command->made = true;
    g_ptr_array_add(lx->commands, command);
}

/* routine NAME = "command; wait 2s; command" [repeat N times | repeat forever] */
void read_routine(struct statement *st)
{
    struct lexicon *lx = st->lx;
    struct lex_routine *routine = g_new0(struct lex_routine, 1);
    routine->steps = g_ptr_array_new_with_free_func(step_free);
    routine->rounds = 1;
    routine->place = statement_peek(st)->place;
    routine->name = statement_name(st, "the routine's name");
    g_ptr_array_add(lx->routines, routine);
    if (!routine->name) {
        routine->name = g_strdup("");
        return;
    }
    for (unsigned i = 0; i + 1 < lx->routines->len; i++)
        if (!strcmp(((struct lex_routine *)lx->routines->pdata[i])->name, routine->name))
            lex_fault(lx, routine->place, "a second routine '%s'", routine->name);
    if (lexicon_output_index(lx, routine->name) >= 0 || lexicon_input(lx, routine->name))
        lex_fault(lx, routine->place, "there is an output or input '%s' already", routine->name);
    struct token *token = statement_take(st);
    if (token->kind != TOKEN_EQUALS || statement_peek(st)->kind != TOKEN_STRING) {
        lex_fault(lx, token->place, "expected = \"command; wait 2s; command\"");
        return;
    }
    token = statement_take(st);
    char **parts = g_strsplit(token->text, ";", -1);
    for (char **part = parts; *part; part++) {
        g_strstrip(*part);
        if (read_inner(lx, routine, token->place, *part)) continue;
        struct lex_step *step = g_new0(struct lex_step, 1);
        step->place = token->place;
        g_ptr_array_add(routine->steps, step);
        if (!**part) lex_fault(lx, token->place, "a step is missing beside a ';'");
        if (!read_wait(lx, step, *part)) step->text = g_strdup(*part);
    }
    g_strfreev(parts);
    if (routine->steps->len > RLX_ROUTINE_STEPS)
        lex_fault(lx, token->place, "a routine has at most %u steps", RLX_ROUTINE_STEPS);
    if (statement_take_word(st, "repeat")) read_rounds(st, routine);
    say_routine(lx, routine, RLX_RUN);
    say_routine(lx, routine, RLX_CANCEL);
    routine->title = statement_title(st);
}

void lex_routine_free(void *p)
{
    struct lex_routine *routine = p;
    g_ptr_array_free(routine->steps, TRUE);
    g_free(routine->name);
    g_free(routine->title);
    g_free(routine);
}

/* ---- when everything is read ---- */

/* A step is a command, and starts no routine but by its name: two could start each other for ever.
 */
static void check_step(struct lexicon *lx, const struct lex_routine *routine,
                       const struct lex_step *step)
{
    int32_t values[15];
    unsigned given;
    const struct lex_command *command = lex_command_taking(lx, step->text, values, &given);
    if (command && command->query) command = NULL;
    if (command && command->effect.kind != LEX_RUN) return;
    struct lex_fault *fault =
        lex_find(lx, LEX_D21, step->place,
                 command ? "\"%s\" is a step of '%s', but ends a routine, or starts one that "
                           "does not stand above it"
                         : "\"%s\" is a step of '%s', but no command takes it",
                 step->text, routine->name);
    fault->witness = g_strdup(step->text);
}

/* NAME? is one thing only. */
static void check_asked(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (lex_asks_modem(lx, link->name) &&
            (lexicon_output_index(lx, link->name) >= 0 || lexicon_input(lx, link->name) ||
             lexicon_routine_index(lx, link->name) >= 0 || lexicon_setting(lx, link->name)))
            lex_find(lx, LEX_D04, link->place,
                     "'%s?' asks something else already; it would ask what this link's modem is at",
                     link->name);
    }
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        bool output = lexicon_output_index(lx, query->name) >= 0;
        bool routine = lexicon_routine_index(lx, query->name) >= 0;
        bool setting = lexicon_setting(lx, query->name) != NULL;
        bool modem = lex_asks_modem(lx, query->name);
        if (lx->built_in & RLX_BUILT_IN_STATE && (output || routine || setting || modem))
            lex_find(lx, LEX_D04, query->place, "'%s?' is built in already: it asks the %s",
                     query->name,
                     output    ? "output"
                     : routine ? "routine"
                     : setting ? "setting"
                               : "modem");
    }
}

/* Records that the library keeps are settings, too. */
static void check_records(struct lexicon *lx)
{
    unsigned settings = lex_n_settings(lx);
    struct lex_setting *first = lx->settings->len ? lx->settings->pdata[0] : NULL;
    if (settings > RLX_SETTINGS_MOST)
        lex_fault(lx, first ? first->place : lx->place,
                  "there are at most %u settings, and these are %u: each modem for text messages, "
                  "each link with kept tags, and kept events, seals and codes of commands take "
                  "one, too",
                  RLX_SETTINGS_MOST, settings);
    if (lex_kept_bytes(lx) > LEX_KEPT_MOST)
        lex_fault(lx, lx->place,
                  "at most %u events are kept where there are %u links; these are %u",
                  (LEX_KEPT_MOST - RLX_KEPT_HEAD) / 2 / lx->links->len, lx->links->len,
                  (lex_kept_bytes(lx) - RLX_KEPT_HEAD) / 2 / lx->links->len);
}

void finish_events(struct lexicon *lx)
{
    check_asked(lx);
    check_records(lx);
    if (lx->events->len && lx->links->len > RLX_EVENT_LINKS)
        lex_fault(lx, ((struct lex_event *)lx->events->pdata[0])->place,
                  "with events there are at most %u links", RLX_EVENT_LINKS);
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        int output = event->input ? lexicon_output_index(lx, event->input) : -1;
        const struct lex_output *out = output >= 0 ? lx->outputs->pdata[output] : NULL;
        const struct lex_kind *kind = out ? lex_kind_of(out) : NULL;
        bool moves = kind && kind->tells && kind->tells(out);
        bool runs = event->input && lexicon_routine_index(lx, event->input) >= 0;
        bool guessed = lex_tells_guesses(lx, event);
        if (event->input && !lexicon_input(lx, event->input) && !moves && !runs && !guessed)
            lex_fault(
                lx, event->place,
                out ? "'%s' sends no events: a relay, led, buzzer, reverser or stepper does, "
                      "and a motor with 'travel'"
                : lexicon_setting(lx, event->input)
                    ? "the setting '%s' sends no events: one that is a code tells that somebody "
                      "guesses"
                    : "there is no input '%s'",
                event->input);
        if (guessed && event->what)
            lex_fault(lx, event->place,
                      "of a code one thing is told, that somebody guesses it: leave the words out");
        if (moves && !kind->words[0] && event->what)
            lex_fault(lx, event->place,
                      "a motor only reports the end of its travel time: leave the words out");
        for (unsigned k = 0; k < event->to->len; k++)
            if (!lexicon_link(lx, event->to->pdata[k]))
                lex_fault(lx, event->place, "there is no link '%s'", (char *)event->to->pdata[k]);
    }
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        for (unsigned k = 0; k < routine->steps->len; k++) {
            const struct lex_step *step = routine->steps->pdata[k];
            if (step->text) check_step(lx, routine, step);
        }
    }
}
