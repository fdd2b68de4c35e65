/* The suite about text messages: who may write, what is late, and power cuts in the middle.
 * Scenes with the stand-in for a modem and its network.
 * Other links are not touched. */
#include <string.h>

#include "lexicon/check/checks.h"
#include "drill/suites/life.h"

#define CUTS    16u
#define FIRST   UINT64_C(2600000) /* after it was written a message is on its way for 3 s, ... */
#define STEP    UINT64_C(430000)  /* ...then it is found, read, done, answered and deleted */
#define STRANGE "+15550199"

static struct move *say(GArray *moves, unsigned link, const char *text, enum owed owed)
{
    struct move *move = moves_add(moves, MOVE_SAY, link, text);
    move->owed = owed;
    move->busy = true;
    return move;
}

static void obeyed(const struct drill *drill, GArray *moves, unsigned link, const char *text)
{
    struct move *move = say(moves, link, text, OWED_OK);
    for (unsigned i = 0; i < drill->cases->len && !move->test; i++) {
        const struct drill_case *test = drill->cases->pdata[i];
        if (!strcmp(test->text, text)) move->test = test;
    }
}

static void play(struct life *life, const char *row, GArray *moves)
{
    struct conversation c = {
        .job = life->job, .row = row, .moves = moves, .seed = life->drill->options->seed};
    yield_conversation(life->yield, life->drill, &c);
    g_array_free(moves, TRUE);
}

/* ---- who may write ---- */

/* Only the number itself is known, however much another one is like it. */
static void writers(struct life *life, unsigned link, const char *text)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const char *known = of->allow->len ? of->allow->pdata[0] : NULL;
    const struct lex_setting *kept =
        of->allow_setting ? lexicon_setting(life->drill->lx, of->allow_setting) : NULL;
    if (!known && kept && kept->value && *kept->value == '+' && !strpbrk(kept->value, " ,"))
        known = kept->value;
    if (of->open || of->code || !known || strlen(known) < 5) return;
    GArray *moves = moves_new();
    char *shorter = g_strndup(known, strlen(known) - 1), *longer = g_strconcat(known, "1", NULL);
    char *other = g_strconcat(shorter, known[strlen(known) - 1] == '7' ? "8" : "7", NULL);
    const char *const strangers[] = {shorter, longer, other, known + 1, "TANK", "+1"};
    for (unsigned i = 0; i < G_N_ELEMENTS(strangers); i++) {
        moves_add(moves, MOVE_FROM, link, strangers[i]);
        say(moves, link, text, OWED_NONE);
    }
    moves_add(moves, MOVE_FROM, link, known);
    obeyed(life->drill, moves, link, text);
    for (unsigned i = 1; i < of->allow->len; i++) {
        moves_add(moves, MOVE_FROM, link, of->allow->pdata[i]);
        obeyed(life->drill, moves, link, text);
    }
    play(life, "who may write", moves);
    g_free(shorter), g_free(longer), g_free(other);
}

/* Numbers that may write are changed over another link. */
static void kept_writers(struct life *life, unsigned link, const char *text)
{
    const struct drill *drill = life->drill;
    const struct lex_link *of = drill_link(drill, link);
    unsigned by = life->job->link;
    const struct lex_command *stores = NULL;
    for (unsigned i = 0; of->allow_setting && i < drill->lx->commands->len; i++) {
        const struct lex_command *command = drill->lx->commands->pdata[i];
        if (command->effect.kind == LEX_STORE && command->made &&
            !strcmp(
                ((struct lex_setting *)drill->lx->settings->pdata[command->effect.output])->name,
                of->allow_setting))
            stores = command;
    }
    if (!stores || of->allow->len || of->code || !lex_may_say(drill_link(drill, by), stores))
        return;
    static const struct {
        const char *value, *may[2], *not ;
    } turns[] = {{"+15550143", {"+15550143", NULL}, STRANGE},
                 {"+15550144 +15550145", {"+15550144", "+15550145"}, "+15550143"},
                 {"+15550146,+15550147", {"+15550147", "+15550146"}, "+15550145"},
                 {"", {NULL, NULL}, "+15550146"},
                 {"+15550142", {"+15550142", NULL}, "+15550146"}};
    GArray *moves = moves_new();
    for (unsigned i = 0; i < G_N_ELEMENTS(turns); i++) {
        char *store = g_strdup_printf("%s \"%s\"", of->allow_setting, turns[i].value);
        say(moves, by, store, OWED_OK);
        g_free(store);
        moves_wait(moves, 1000000);
        if (i == 1) moves_add(moves, MOVE_NOW, link, "reset power"), moves_wait(moves, 20000000);
        for (unsigned k = 0; k < 2 && turns[i].may[k]; k++) {
            moves_add(moves, MOVE_FROM, link, turns[i].may[k]);
            obeyed(life->drill, moves, link, text);
        }
        moves_add(moves, MOVE_FROM, link, turns[i].not );
        say(moves, link, text, OWED_NONE);
    }
    play(life, "who may write", moves);
}

/* ---- what is none ---- */

/* Several parts, letters that no command has, nothing at all. */
static void of_all_kinds(struct life *life, unsigned link, const char *text)
{
    const struct lex_link *of = drill_link(life->drill, link);
    const struct lex_setting *code = of->code ? lexicon_setting(life->drill->lx, of->code) : NULL;
    static const char *const odd[] = {"[", "{", "~",      "\u20ac", "\u00e4", "@",
                                      "$", "_", "\u0393", "\u4e2d", "\t",     "^"};
    bool answers = of->replies == LEX_REPLIES_FULL && !of->texts->len;
    /* where the code cannot be read nobody is answered */
    enum owed refused = code ? OWED_PERHAPS : OWED_ERR;
    if (!answers) return;
    GArray *moves = moves_new();
    for (unsigned i = 0; i < G_N_ELEMENTS(odd); i++) {
        char *behind = g_strconcat(text, odd[i], NULL), *before = g_strconcat(odd[i], text, NULL);
        say(moves, link, behind, refused);
        if (i % 3 == 0) say(moves, link, before, refused);
        g_free(behind), g_free(before);
    }
    static const unsigned lengths[] = {152, 153, 154, 159, 160, 161, 306, 307, 460};
    for (unsigned i = 0; i < G_N_ELEMENTS(lengths); i++) {
        size_t around = code ? strlen(code->value) + 1 : 0;
        GString *xs = g_string_new(text);
        while (xs->len + around < lengths[i]) g_string_append_c(xs, i % 2 ? ' ' : 'x');
        say(moves, link, xs->str, i % 2 && !code ? OWED_ONE : refused)->torn = true;
        g_string_free(xs, TRUE);
    }
    char *wide = g_strconcat("\u4e2d", text, text, text, text, text, text, text, text, NULL);
    say(moves, link, wide, refused)->torn = true;
    say(moves, link, "   ", OWED_NONE);
    obeyed(life->drill, moves, link, text);
    g_free(wide);
    play(life, "messages that are none", moves);
}

/* ---- power cuts ---- */

/* Each is obeyed once, though the network brings them twice and in another order. */
static void repeats(struct life *life, unsigned link)
{
    const struct lex_output *out;
    const char *toggle = life_toggle(life->drill, link, false, &out);
    if (!toggle || drill_by(life->drill, out)) return;
    for (unsigned n = 2; n <= RLX_SMS_KEPT; n++) { /* so many are remembered */
        life_put(life, "now sms %s duplicate 100%% spread %us", drill_link(life->drill, link)->name,
                 n * 5);
        for (unsigned i = 0; i < n; i++) {
            life_say(life, link, toggle);
            life_put(life, "wait 3s");
        }
        life_put(life, "wait 10min\nsee %s %s within 1ms", out->name,
                 (n + (out->safe != 0)) % 2 ? "on" : "off");
        life->link = link;
        life_play(life, "messages duplicated", "%u times %s over %s, each of them twice", n, toggle,
                  drill_link(life->drill, link)->name);
    }
}

/* The power is cut a little later each time while a message is read, done, answered, deleted. */
static void cuts(struct life *life, unsigned link, const char *text)
{
    const struct drill *drill = life->drill;
    const struct lex_output *out;
    const char *toggle = life_toggle(drill, link, false, &out);
    GArray *moves = moves_new();
    for (unsigned i = 0; i < CUTS; i++) {
        const char *said = toggle && i % 2 ? toggle : text;
        say(moves, link, i % 4 == 2 ? "zzz" : said, OWED_ANY);
        moves_wait(moves, FIRST + i * STEP);
        moves_add(moves, MOVE_NOW, link, i % 3 ? "reset power" : "reset watchdog");
        moves_wait(moves, 60000000);
    }
    say(moves, link, text, OWED_ONE)->torn = true;
    play(life, "power cuts", moves);
}

/* The modem fails a little later each time while it is asked, and is well again after longer and
 * longer. */
static void failures(struct life *life, unsigned link, const char *text)
{
    static const char *const how[] = {"silent", "resets", "off", "unregistered"};
    const char *name = drill_link(life->drill, link)->name;
    GArray *moves = moves_new();
    for (unsigned i = 0; i < 2 * CUTS; i++) {
        char *begins = g_strdup_printf("sms %s %s", name, how[i % G_N_ELEMENTS(how)]);
        char *ends = g_strdup_printf("sms %s", name);
        say(moves, link, i % 4 == 2 ? "zzz" : text, OWED_ANY);
        moves_wait(moves, FIRST + i * STEP / 2);
        moves_add(moves, MOVE_NOW, link, begins);
        moves_wait(moves, 20000000 + i * UINT64_C(7000000));
        moves_add(moves, MOVE_NOW, link, ends);
        moves_wait(moves, 150000000);
        g_free(begins), g_free(ends);
    }
    say(moves, link, text, OWED_ONE)->torn = true;
    play(life, "a modem that fails", moves);
}

/* ---- codes ---- */

/* Whoever guesses the code is not heard for a while, and keeps out nobody who knows it. */
static void guesses(struct life *life, unsigned link, const char *text)
{
    const struct lex_link *of = drill_link(life->drill, link);
    if (!of->code || of->allow->len || of->allow_setting) return;
    for (unsigned turn = 0; turn < 2; turn++) {
        life_put(life, "from %s \"+15550142\"", of->name);
        life_obeyed(life, link, text);
        life_put(life, "from %s \"" STRANGE "\"", of->name);
        for (unsigned i = 0; i < RLX_GUESSES + turn; i++) {
            life_put(life, "say %s \"000000%u %s\"\nsilence %s 20s", of->name, i, text, of->name);
            if (i >= RLX_GUESSES) life_put(life, "wait 1min");
        }
        if (turn) life_put(life, "now reset power\nwait 20s");
        life_say(life, link, text);
        life_put(life, "silence %s 20s\nstill 1s", of->name);
        life_put(life, "from %s \"+15550142\"", of->name);
        life_obeyed(life, link, text);
        life_put(life, "from %s \"" STRANGE "\"\nwait 60s", of->name);
        life_obeyed(life, link, text);
        life->link = link;
        life_play(life, "who may write",
                  turn ? "A reset helps nobody who guesses the code of %s"
                       : "Wrong codes over %s shut out who sends them, and nobody else",
                  of->name);
    }
}

/* ---- all ---- */

static void refused(struct life *life, unsigned i, const char *text)
{
    const struct lex_link *link = drill_link(life->drill, i);
    if (!link->open && !link->code) {
        life_put(life, "from %s \"+15550199\"", link->name);
        life_say(life, i, text);
        life_put(life, "silence %s 2min\nstill 1s", link->name);
        life->link = i;
        life_play(life, "who may write", "A stranger is not answered over %s", link->name);
    }
    if (link->replies == LEX_REPLIES_FULL && !link->texts->len && !link->code) {
        char *xs = g_strnfill(MIN(link->longest + 5, 155), 'x');
        life_say(life, i, xs);
        life_hear(life, i, link->longest < 150 ? "err long*" : "err*");
        life_say(life, i, "\u043f\u0443\u0441\u043a 1");
        life_hear(life, i, "err alphabet*");
        life_put(life, "still 1s");
        life->link = i;
        life_play(life, "messages that are none",
                  "Too long, and in letters that no command has, over %s", link->name);
        g_free(xs);
    }
    if (link->code) {
        life_put(life, "say %s \"0000000 %s\"\nsilence %s 2min", link->name, text, link->name);
        life->link = i;
        life_play(life, "who may write", "Without its code nothing is done over %s", link->name);
    }
    if (link->stale && link->stale < 80000000 && link->replies == LEX_REPLIES_FULL) {
        life_put(life, "wait 1min\nnow sms %s delay %us", link->name, link->stale / 1000 + 60);
        life_say(life, i, text);
        char *who = life_speaker(life, i);
        life_put(life, "hear %s \"%s\" within 23h\nstill 1s", who,
                 link->texts->len ? "*" : "err late*");
        g_free(who);
        life->link = i;
        life_play(life, "late messages", "What is older than %u s is late over %s",
                  link->stale / 1000, link->name);
    }
}

void spoken_messages(struct life *life)
{
    const struct drill *drill = life->drill;
    for (unsigned i = 0; i < drill->lx->links->len; i++) {
        const char *text = life_any(drill, i);
        if (!lex_drives_modem(drill_link(drill, i)) || drill_why_not(drill, i) || !text) continue;
        refused(life, i, text);
        writers(life, i, text);
        kept_writers(life, i, text);
        guesses(life, i, text);
        of_all_kinds(life, i, text);
        repeats(life, i);
        cuts(life, i, text);
        failures(life, i, text);
    }
}
