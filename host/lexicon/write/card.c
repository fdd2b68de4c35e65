/* The reference card: text, Markdown or HTML.
 * Tables of commands, links, outputs and replies, from the model.
 * The JSON card is in card_json.c. */
#include "lexicon/write/card.h"
#include "lexicon/write/card_layouts.h"

#include <string.h>

#include "lexicon/contract.h"
#include "lexicon/framing.h"
#include "lexicon/layout/layout.h"
#include "lexicon/write/worked.h"
#include "lexicon/kind.h"
#include "lexicon/read/reader.h"
#include "rlx/drive.h"
#include "rlx/error.h"
#include "rlx/image.h"
#include "lexicon/write/cells.h"

static char *time_text(uint32_t ms)
{
    struct lex_element e = {.form = LEX_TIME};
    return lex_value_text(&e, (int32_t)ms);
}

/* " BEFORE 200ms", or nothing if it is 0. */
static void add_time(GString *out, const char *before, uint32_t ms)
{
    if (!ms) return;
    char *text = time_text(ms);
    g_string_append_printf(out, "%s%s %s", out->len ? ", " : "", before, text);
    g_free(text);
}

static void add_time_by(GString *out, const char *before, uint32_t ms, const char *by)
{
    add_time(out, before, ms);
    if (!ms) return;
    if (by) g_string_append_printf(out, " (default of setting %s)", by);
}

static void add_word(GString *out, const char *format, const char *word)
{
    if (!word) return;
    g_string_append(out, out->len ? ", " : "");
    g_string_append_printf(out, format, word);
}

/* The text becomes a cell. */
static void cell_of(struct table *table, GString *text)
{
    table_cell(table, "%s", text->str);
    g_string_free(text, TRUE);
}

/* ---- commands ---- */

/* As the lexicon writes it: pump, beacon toggle, glow 5%, dose(). */
static char *effect_text(const struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_effect *effect = &command->effect;
    GString *text = g_string_new(NULL);
    if (effect->kind == LEX_CALL) {
        g_string_append_printf(text, "%s()", effect->handler);
    } else if (effect->kind == LEX_RUN) {
        const struct lex_routine *routine = lx->routines->pdata[effect->output];
        g_string_append_printf(text, "%s%s", routine->name,
                               effect->fixed == RLX_RUN ? "" : " stop");
    } else {
        const char *name = effect->which
                               ? effect->which->text
                               : ((struct lex_output *)lx->outputs->pdata[effect->output])->name;
        char *argument = lex_effect_argument(lx, effect);
        g_string_append_printf(text, "%s%s%s%s%s", name, effect->verb ? " " : "",
                               effect->verb ? effect->verb->word : "", *argument ? " " : "",
                               argument);
        g_free(argument);
    }
    add_time_by(text, "expires", command->expires, command->expires_by);
    if (command->newest) add_word(text, "%s wins", "newest");
    char *guards = lex_guards_text(command);
    if (*guards) add_word(text, "%s", guards);
    g_free(guards);
    add_word(text, "with the code in the setting %s", command->code);
    return g_string_free(text, FALSE);
}

/* lamp is {to}; already: lamp was {to}; on phone. Or the values that stand behind ok. */
static void put_answers(struct table *table, const struct lex_command *command)
{
    GString *text = g_string_new(command->says);
    struct lex_command values = {.elements = command->told};
    char *told = command->told ? lex_command_text(&values) : NULL;
    if (told) g_string_append_printf(text, "with %s", told);
    g_free(told);
    if (command->already) g_string_append_printf(text, "; already: %s", command->already);
    for (unsigned i = 0; command->says && i < command->says_on->len; i++)
        g_string_append_printf(text, "%s%s", i ? ", " : "; on ",
                               (char *)command->says_on->pdata[i]);
    cell_of(table, text);
}

static void put_commands(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"said", "does", "", NULL};
    static const char *const own[] = {"said", "does", "answers", "", NULL};
    bool says = false;
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        says |= command->says || command->told;
    }
    struct table table = table_new(says ? own : heads);
    for (unsigned i = 0; i < lx->commands->len; i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        if (command->made) continue; /* below */
        char *text = lex_command_text(command);
        table_cell(&table, "%s", text);
        char *effect = effect_text(lx, command);
        table_cell(&table, "%s", effect);
        g_free(effect);
        if (says) put_answers(&table, command);
        table_cell(&table, "%s", command->title ? command->title : "");
        g_free(text);
    }
    table_put(out, &table, "Commands", form);
    GString *letters = g_string_new(NULL);
    g_string_append_printf(letters, "Letters: %s.",
                           lx->any_case ? "capital and small letters are the same" : "exactly so");
    if (lx->shorten)
        g_string_append_printf(
            letters, " Words may be cut to %u letters\nor more where no other begins the same.",
            lx->shorten);
    g_string_append_c(letters, '\n');
    if (form != TABLE_HTML) g_string_append_c(out, '\n');
    table_lines(out, letters->str, form);
    g_string_free(letters, TRUE);
}

static void put_contracts(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"function", "must", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->contracts->len; i++) {
        const struct lex_contract *contract = lx->contracts->pdata[i];
        char *must = lex_contract_text(lx, contract);
        table_cell(&table, "%s()", contract->handler);
        table_cell(&table, "%s", must);
        g_free(must);
    }
    table_put(out, &table, "Contracts", form);
}

static void put_numbers(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"is said", "stands for", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->numbers->len; i++) {
        const struct lex_number *number = lx->numbers->pdata[i];
        table_cell(&table, "%s", number->said);
        table_cell(&table, "%s", number->text);
    }
    table_put(out, &table, "Short for", form);
}

static void put_built_in(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"built in", "does", NULL};
    struct table table = table_new(heads);
    for (const struct lex_built_in *b = lex_built_ins; b->word; b++) {
        if (!(lx->built_in & b->bit)) continue;
        table_cell(&table, "%s", b->word);
        table_cell(&table, "%s", b->does);
    }
    table_put(out, &table, "Built in", form);
}

static void put_routines(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"routine", "does", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->routines->len; i++) {
        const struct lex_routine *routine = lx->routines->pdata[i];
        GString *steps = g_string_new(NULL);
        for (unsigned k = 0; k < routine->steps->len; k++) {
            const struct lex_step *step = routine->steps->pdata[k];
            char *wait = step->text ? NULL : time_text(step->wait);
            g_string_append_printf(steps, "%s%s%s", k ? "; " : "",
                                   step->text ? step->text : "wait ", wait ? wait : "");
            g_free(wait);
        }
        if (routine->rounds > 1) g_string_append_printf(steps, "; %u times", routine->rounds);
        if (!routine->rounds) g_string_append(steps, "; and again, for ever");
        table_cell(&table, "%s, %s stop", routine->name, routine->name);
        cell_of(&table, steps);
    }
    table_put(out, &table, "Routines", form);
}

static void put_queries(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"asked", "answered with", "", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->queries->len; i++) {
        const struct lex_query *query = lx->queries->pdata[i];
        struct lex_command values = {.elements = query->elements};
        char *text = lex_command_text(&values);
        char *asked = lex_command_text(query->asked);
        table_cell(&table, "%s", asked);
        g_free(asked);
        table_cell(&table, "%s", text);
        table_cell(&table, "%s", query->title ? query->title : "");
        g_free(text);
    }
    for (unsigned i = 0; i < lx->settings->len; i++) {
        const struct lex_setting *setting = lx->settings->pdata[i];
        char *text = lex_element_text(setting->slot);
        table_cell(&table, "%s?", setting->name);
        table_cell(&table, "%s", text);
        const char *value = lex_is_key(lx, setting->name)  ? "no key"
                            : lexicon_is_code(lx, setting) ? "a secret"
                            : *setting->value              ? setting->value
                                                           : "empty";
        char *guards = lex_guards_text(lex_storing(lx, setting));
        GString *note = g_string_new(NULL);
        add_time(note, "saved every", setting->saved_every);
        add_word(note, "%s", *guards ? guards : NULL);
        table_cell(&table, "setting: %s VALUE%s%s; %s when nobody has changed it%s%s",
                   setting->name, note->len ? ", " : "", note->str, value,
                   setting->title ? "; " : "", setting->title ? setting->title : "");
        g_string_free(note, TRUE);
        g_free(guards);
        g_free(text);
    }
    table_put(out, &table, "Queries and settings", form);
}

static char *joined(const GPtrArray *names, const char *otherwise)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < names->len; i++) add_word(all, "%s", names->pdata[i]);
    if (!all->len) g_string_assign(all, otherwise);
    return g_string_free(all, FALSE);
}

static void put_events(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"told", "when", "to", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        char *to = joined(event->to, "all links"), *word = NULL;
        if (event->what) word = lex_element_text(event->what);
        table_cell(&table, "ev %s%s%s%s", event->confirmed ? "#N " : "", event->name,
                   word ? " " : "", word ? word : "");
        GString *when = g_string_new(NULL);
        add_word(when, lex_tells_guesses(lx, event) ? "somebody guesses %s" : "%s changes",
                 event->input);
        if (!event->input) add_word(when, "%s", "the firmware sends it");
        if (event->confirmed) add_word(when, "%s", "again until \"got N\"");
        if (event->kept) add_word(when, "%s", "also after a power cut");
        add_time(when, "at most every", event->every);
        if (event->per_day) g_string_append_printf(when, ", at most %u a day", event->per_day);
        cell_of(&table, when);
        table_cell(&table, "%s", to);
        g_free(to);
        g_free(word);
    }
    table_put(out, &table, "Events", form);
}

/* ---- what hangs on the pins ---- */

static char *behaviour(const struct lexicon *lx, const struct lex_output *out)
{
    GString *text = g_string_new(NULL);
    add_time(text, "min on", out->min_on);
    add_time(text, "min off", out->min_off);
    if (out->counted) add_word(text, "%s", "counted");
    add_word(text, "interlock %s", out->interlock);
    add_time(text, "dead time", out->dead);
    add_time_by(text, "ramp", out->ramp, out->ramp_by);
    add_time(text, "travel", out->travel);
    add_word(text, "turns: %s", out->style);
    add_word(text, "curve %s", out->curve);
    add_time_by(text, "fade", out->fade, out->ramp_by);
    add_time_by(text, "slew", out->slew, out->ramp_by);
    add_time_by(text, "expires", out->expires, out->expires_by);
    add_word(text, "safe when %s is lost", out->lost);
    char *permits = lex_permits_text(out);
    add_word(text, "%s", permits);
    if (out->by)
        add_word(text, "%s",
                 out->by == LEX_BY_FIRMWARE ? "by the firmware too"
                                            : "the firmware may make it safe");
    g_free(permits);
    add_word(text, "shows %s", out->shows);
    for (unsigned i = 0; i < LEX_SHOWN; i++) {
        char *effect = out->shown[i] ? effect_text(lx, out->shown[i]) : NULL;
        if (effect) g_string_append_printf(text, ", %s: %s", lex_shown_words[i], effect);
        g_free(effect);
    }
    if (out->range) {
        char *range = lex_range_text(out->range);
        g_string_append_printf(text, "%s%s%s as %d..%d%s", text->len ? ", " : "", range,
                               out->range->unit ? out->range->unit : "", out->range->to_low,
                               out->range->to_high, lex_kind_of(out)->becomes);
        g_free(range);
    }
    return g_string_free(text, FALSE);
}

static void put_outputs(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"output", "is", "on", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->outputs->len; i++) {
        const struct lex_output *output = lx->outputs->pdata[i];
        char *wires = lex_kind_of(output)->wiring(output),
             *safe = lex_kind_of(output)->safe_text(output), *does = behaviour(lx, output);
        bool level = lex_kind_may_have(output, "active") && !output->range;
        GString *all = g_string_new(wires);
        if (level) add_word(all, "active %s", output->active_low ? "low" : "high");
        if (*safe) add_word(all, "%s", safe);
        if (*does) add_word(all, "%s", does);
        table_cell(&table, "%s", output->name);
        table_cell(&table, "%s", lex_output_kinds[output->kind]);
        cell_of(&table, all);
        g_free(wires);
        g_free(safe);
        g_free(does);
    }
    table_put(out, &table, "Outputs", form);
}

static void put_inputs(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"input", "on", NULL};
    static const char *const pulls[] = {"no pull", "pulled up", "pulled down"};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->inputs->len; i++) {
        const struct lex_input *in = lx->inputs->pdata[i];
        table_cell(&table, "%s", in->name);
        GString *text = g_string_new(NULL);
        g_string_append_printf(text, "pin %u, %s, active %s", in->pin, pulls[in->pull],
                               in->active_low ? "low" : "high");
        add_time_by(text, "debounce", in->debounce, in->debounce_by);
        add_time(text, "held after", in->held);
        add_time(text, "repeats every", in->repeat);
        for (unsigned k = 0; k < LEX_WHENS; k++) {
            static const char *const words[] = {
#define WORD(field, word) [LEX_WHEN_##field] = #word,
                LEX_INPUT_ACTS(WORD)
#undef WORD
            };
            char *effect = in->acts[k] ? effect_text(lx, in->acts[k]) : NULL;
            if (effect) g_string_append_printf(text, "; %s: %s", words[k], effect);
            g_free(effect);
        }
        cell_of(&table, text);
    }
    table_put(out, &table, "Inputs", form);
}

/* ---- over which links ---- */

static char *carrier(const struct lex_link *link)
{
    char format[LEX_FORMAT_TEXT];
    lex_format_text(&link->format, format);
    switch (link->medium) {
    case LEX_SERIAL: return g_strdup_printf("serial, %u baud, %s", link->baud, format);
    case LEX_BRIDGE:
        return g_strdup_printf("wireless serial bridge, %u baud, %s", link->baud, format);
    case LEX_MODEM: return g_strdup_printf("transparent modem, %u baud, %s", link->baud, format);
    case LEX_RADIO: return g_strdup_printf("packet radio, %u bytes a packet", link->payload);
    case LEX_REPORT: return g_strdup("reports of 64 bytes");
    case LEX_SMS:
    case LEX_MEDIA: break;
    }
    return link->handed
               ? g_strdup("text messages, 160 characters")
               : g_strdup_printf("text messages, 160 characters; its modem %u baud", link->baud);
}

static char *framing(const struct lex_link *link)
{
    const struct lex_framing *is = lex_framing_of(link);
    char *frames = is->text(link);
    GString *text = g_string_new(frames);
    g_free(frames);
    add_time(text, is->silence ? "silence of" : "in step again after", link->gap);
    if (link->people) add_word(text, "%s", "for people");
    if (lex_is_keyed(link))
        g_string_append_printf(text, ", answers begin with '%c'", RLX_REPLY_LEAD);
    return g_string_free(text, FALSE);
}

static void add_demand(GString *out, const char *what, enum lex_demand demand)
{
    if (!demand) return;
    add_word(out, "%s ", what);
    g_string_append(out, demand == LEX_DEMAND_OPTIONAL ? "optional" : "required");
}

static void add_keys(GString *text, const struct lexicon *lx, const struct lex_link *link)
{
    GPtrArray *keys = lex_keys_of(lx, link);
    for (unsigned i = 0; i < keys->len; i++) {
        const struct lex_seal_key *key = keys->pdata[i];
        char *of = key->sender ? g_strdup_printf(" of sender %u", key->sender) : g_strdup("");
        g_string_append_printf(text, ", key %u is %s%s", i + 1, key->name, of);
        g_free(of);
    }
    g_ptr_array_free(keys, TRUE);
}

static char *envelope(const struct lexicon *lx, const struct lex_link *link)
{
    GString *text = g_string_new(NULL);
    if (link->address >= 0)
        g_string_append_printf(text, "begins with \"@%d/SOURCE \"", link->address);
    if (link->senders)
        g_string_append_printf(text, "%ssources 1..%u", text->len ? ", " : "", link->senders);
    add_demand(text, "tag \"#N \"", link->tags);
    if (link->tags) {
        struct lex_element ms = {.form = LEX_TIME};
        char *window = lex_value_text(&ms, (int32_t)link->window);
        g_string_append_printf(text, ", forgotten after %s%s", window,
                               link->tags_kept ? "" : " or a reset");
        g_free(window);
    }
    add_demand(text, "seal \"!KEY.COUNTER.CODE \"", link->seal);
    if (link->seal_halt) g_string_append(text, ", of a halt too");
    if (link->seal) add_time(text, "a session ends after", link->window);
    add_keys(text, lx, link);
    add_demand(text, "check \"*XXXX\"", link->check);
    if (link->only->len) {
        char *only = joined(link->only, "");
        add_word(text, "only %s", only);
        g_free(only);
    }
    if (link->locked->len) {
        char *locked = joined(link->locked, "");
        add_word(text, "without %s", locked);
        g_free(locked);
    }
    if (link->allow->len) {
        char *allow = joined(link->allow, "");
        add_word(text, "from %s", allow);
        g_free(allow);
    }
    add_word(text, "from the numbers in the setting %s", link->allow_setting);
    add_word(text, "with the code in the setting %s", link->code);
    add_time(text, "not older than", link->stale);
    if (link->replies) add_word(text, "replies %s", link->replies == 1 ? "short" : "silent");
    if (link->answer_end) add_word(text, "answers end with %s", lex_end_names[link->answer_end]);
    if (link->one_way) add_word(text, "%s", "one way");
    if (link->replies_drop) add_word(text, "%s", "drops answers without room");
    if (link->state_pin != LEX_NO_PIN)
        g_string_append_printf(text, "%spin %u is %s while somebody is there",
                               text->len ? ", " : "", link->state_pin,
                               link->state_low ? "low" : "high");
    if (link->hang_pin != LEX_NO_PIN) {
        g_string_append_printf(text, "%sbye hangs up by pin %u%s", text->len ? ", " : "",
                               link->hang_pin, link->hang_low ? ", active low" : "");
        add_time(text, "for", link->hang_ms);
    }
    add_time(text, "lost after", link->lost);
    if (link->greets) add_word(text, "%s", "sends the state of events when it comes up");
    if (link->yields) {
        char *yields = g_strdup_printf("%s for %us", link->yields, link->yields_s);
        add_word(text, "yields to %s", yields);
        g_free(yields);
    }
    return g_string_free(text, FALSE);
}

static void put_links(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"link", "is", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        char *is = carrier(link), *takes = framing(link), *around = envelope(lx, link);
        table_cell(&table, "%s", link->name);
        table_cell(&table, "%s; %s%s%s", is, takes, *around ? "; " : "", around);
        g_free(is);
        g_free(takes);
        g_free(around);
    }
    table_put(out, &table, "Links", form);
}

/* One command over each link, byte for byte. */
/* The bytes as text, where they are that. Owned by the caller. */
static char *shown(const struct lex_link *link, const GString *bytes)
{
    if (link->layout) return layout_hex((const guint8 *)bytes->str, bytes->len);
    return worked_shown(bytes);
}

static void put_worked(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"link", "to say", "goes out as", "and comes back", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        struct worked worked;
        if (!worked_example(lx, link, &worked)) continue;
        char *frame = shown(link, worked.frame);
        char *answer = worked.answer ? shown(link, worked.answer) : g_strdup("");
        table_cell(&table, "%s", link->name);
        table_cell(&table, "%s", worked.command);
        table_cell(&table, "%s", frame);
        table_cell(&table, "%s", answer);
        g_free(frame), g_free(answer);
        worked_clear(&worked);
    }
    table_put(out, &table, "Examples of frames", form);
}

/* How the check is worked out, where a link has one. */
static void put_check(GString *out, const struct lexicon *lx, enum table_form form)
{
    bool any = false, tags = false;
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        any |= link->check != LEX_DEMAND_OFF;
        tags |= link->check && link->tags;
    }
    if (!any) return;
    table_head(out, "Check", form);
    table_lines(
        out,
        "CRC-16, polynomial 0x1021, begun with 0xFFFF, not reflected, not inverted at the end;\n"
        "\"123456789\" gives 0x29B1. Over all before the '*', in four characters,\n"
        "four bits each, the highest first: '@' is 0, 'A' 1, ... 'O' 15.\n",
        form);
    if (tags)
        table_lines(out,
                    "The check of an answer with a tag goes on from the sum of the frame that it "
                    "answers.\n",
                    form);
}

/* The bytes of a text, in hex; of a code, its '#' is any digit. */
static void cell_bytes(struct table *table, const char *text, bool code)
{
    GString *bytes = g_string_new(NULL);
    for (const char *p = text; *p; p++) {
        if (p > text) g_string_append_c(bytes, ' ');
        if (code && *p == '#')
            g_string_append(bytes, "DIGIT");
        else
            g_string_append_printf(bytes, "0x%02X", (unsigned char)*p);
    }
    cell_of(table, bytes);
}

static void put_keys(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"link", "key", "bytes", "stands for", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->keys->len; k++) {
            const struct lex_key *key = link->keys->pdata[k];
            table_cell(&table, "%s", link->name);
            table_cell(&table, "%s", key->code);
            cell_bytes(&table, key->code, link->frame == LEX_FRAME_CODES);
            table_cell(&table, "%s", key->text);
        }
    }
    table_put(out, &table, "Keys", form);
}

static void put_button(struct table *table, const struct lex_handset *handset,
                       const struct lex_button *button)
{
    GString *says = g_string_new(NULL);
    add_word(says, "pressed \"%s\"", button->press);
    add_word(says, "held \"%s\"", button->held);
    if (button->held) {
        char *every = time_text(handset->repeat);
        if (handset->repeat) g_string_append_printf(says, " every %s", every);
        g_free(every);
    }
    add_word(says, "released \"%s\"", button->release);
    add_word(says, "while %s is held down", button->with);
    table_cell(table, "%s", handset->name);
    table_cell(table, "button %s", button->name);
    cell_of(table, says);
}

static void put_handsets(GString *out, const struct lexicon *lx, enum table_form form)
{
    static const char *const heads[] = {"handset", "has", "that sends", NULL};
    struct table table = table_new(heads);
    for (unsigned i = 0; i < lx->handsets->len; i++) {
        const struct lex_handset *handset = lx->handsets->pdata[i];
        for (unsigned k = 0; k < handset->buttons->len; k++)
            put_button(&table, handset, handset->buttons->pdata[k]);
        if (handset->idle) {
            table_cell(&table, "%s", handset->name);
            table_cell(&table, "idle");
            table_cell(&table, "when the last button is released \"%s\"", handset->idle);
        }
        for (unsigned k = 0; k < handset->sliders->len; k++) {
            const struct lex_slider *slider = handset->sliders->pdata[k];
            table_cell(&table, "%s", handset->name);
            table_cell(&table, "slider %s", slider->name);
            table_cell(&table, "\"%s\"", slider->text);
        }
        for (unsigned k = 0; k < handset->lamps->len; k++) {
            const struct lex_lamp *lamp = handset->lamps->pdata[k];
            table_cell(&table, "%s", handset->name);
            table_cell(&table, "lamp %s", lamp->name);
            table_cell(&table, "(lit by \"ev %s%s%s\")", lamp->event, lamp->word ? " " : "",
                       lamp->word ? lamp->word : "");
        }
    }
    table_put(out, &table, "Handsets", form);
}

/* ---- what comes back ---- */

/* Whether errors come as numbers over some link. */
static bool has_short(const struct lexicon *lx)
{
    bool any = false;
    for (unsigned i = 0; i < lx->links->len; i++)
        any |= ((struct lex_link *)lx->links->pdata[i])->replies == LEX_REPLIES_SHORT;
    return any;
}

static void error_cell(struct table *table, const char *name, unsigned number, bool numbered)
{
    if (numbered)
        table_cell(table, "err %s, e%u", name, number);
    else
        table_cell(table, "err %s", name);
}

static void put_replies(GString *out, const struct lexicon *lx, const struct image *image,
                        enum table_form form)
{
    static const char *const heads[] = {"answer", "means", NULL};
    struct table table = table_new(heads);
    if (!lx->silent) {
        table_cell(&table, "ready %s %u %s CAUSE", lx->name, lx->version, image->fingerprint);
        table_cell(&table, "it has started, for this reason");
    }
    table_cell(&table, "ok COMMAND");
    table_cell(&table, "done; for a toggle, with the result");
    table_cell(&table, "ok COMMAND already");
    table_cell(&table, "it was so before");
#define ROW(number, id, name, sentence)                  \
    if (image_can_fail(lx, image, number)) {             \
        error_cell(&table, name, number, has_short(lx)); \
        table_cell(&table, "%s", sentence);              \
    }
    RLX_REPLY_ERRORS(ROW)
#undef ROW
    for (unsigned i = 0; i < lx->reasons->len; i++) {
        error_cell(&table, lx->reasons->pdata[i], RLX_ERR_REASON + i, has_short(lx));
        table_cell(&table, "the firmware refuses it: %s", (char *)lx->reasons->pdata[i]);
    }
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        for (unsigned k = 0; k < link->texts->len; k++) {
            const struct lex_text *own = link->texts->pdata[k];
            table_cell(&table, "%s", own->text);
            table_cell(&table, "on %s, instead of: %s", link->name, own->what);
        }
    }
    table_put(out, &table, "Answers", form);
}

static const char style[] =
    "body { font: 15px/1.4 sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }\n"
    "table { border-collapse: collapse; width: 100%; margin: 0 0 1rem; break-inside: auto; }\n"
    "tr { break-inside: avoid; }\n"
    "th, td { border: 1px solid #999; padding: .25rem .5rem; text-align: left; "
    "vertical-align: top; }\n"
    "th { background: #eee; color: #000; }\n"
    "h2 { break-after: avoid; margin: 1.4rem 0 .4rem; font-size: 1.15rem; }\n"
    "h3 { break-after: avoid; margin: .9rem 0 .3rem; font-size: 1rem; }\n"
    ".frame td:nth-child(-n+3) { font-family: monospace; white-space: pre-wrap; }\n"
    ".frame td:first-child { white-space: nowrap; }\n"
    "@media print { body { font-size: 10pt; margin: 0; max-width: none; } }\n"
    "@page { margin: 15mm; }\n";

static void put_title(GString *out, const char *title, enum table_form form)
{
    char *safe = g_markup_escape_text(title, -1);
    if (form == TABLE_MARKDOWN) g_string_append(out, "# ");
    if (form == TABLE_HTML)
        g_string_append_printf(out,
                               "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta "
                               "charset=\"utf-8\">\n<title>%s</title>\n<style>\n%s</style>\n</head>"
                               "\n<body>\n<h1>%s</h1>\n",
                               safe, style, safe);
    else if (form == TABLE_MARKDOWN)
        table_escaped(out, title);
    else
        g_string_append(out, title);
    if (form != TABLE_HTML) g_string_append_c(out, '\n');
    g_free(safe);
}

static char *card(const struct lexicon *lx, const struct image *image, enum table_form form)
{
    GString *out = g_string_new(NULL);
    char *head = g_strdup_printf("%s (%s %u, %s)", lx->title ? lx->title : lx->name, lx->name,
                                 lx->version, image->fingerprint);
    put_title(out, head, form);
    g_free(head);
    put_commands(out, lx, form);
    put_contracts(out, lx, form);
    put_numbers(out, lx, form);
    put_built_in(out, lx, form);
    put_routines(out, lx, form);
    put_queries(out, lx, form);
    put_events(out, lx, form);
    put_keys(out, lx, form);
    put_handsets(out, lx, form);
    put_outputs(out, lx, form);
    put_inputs(out, lx, form);
    put_links(out, lx, form);
    put_worked(out, lx, form);
    put_check(out, lx, form);
    card_put_layouts(out, lx, form);
    if (form == TABLE_HTML) card_put_frames(out, lx);
    put_replies(out, lx, image, form);
    if (form == TABLE_HTML) g_string_append(out, "</body>\n</html>\n");
    return g_string_free(out, FALSE);
}

char *lexicon_card_text(const struct lexicon *lx, const struct image *image)
{
    return card(lx, image, TABLE_TEXT);
}

char *lexicon_card_markdown(const struct lexicon *lx, const struct image *image)
{
    return card(lx, image, TABLE_MARKDOWN);
}

char *lexicon_card_html(const struct lexicon *lx, const struct image *image)
{
    return card(lx, image, TABLE_HTML);
}
