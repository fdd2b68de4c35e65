/* The host side of a lexicon: reading, hashing, names, the image. */
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lexicon/write/word_hash.h"
#include "lexicon/write/table_image.h"
#include "lexicon/names.h"
#include "lexicon/slot.h"
#include "rig.h"
#include "rlx/image.h"

static char *folder, *path;

/* Reads this text as a file. */
static struct lexicon *read_text(const char *text, gssize size)
{
    if (!folder) {
        folder = g_dir_make_tmp("rlx-lexicon-XXXXXX", NULL);
        path = g_build_filename(folder, "it.lexicon", NULL);
    }
    g_file_set_contents(path, text, size, NULL);
    return lexicon_read(path, NULL);
}

static void clean_up(void)
{
    remove(path);
    CHECK_INT(remove(folder), 0);
    g_free(path);
    g_free(folder);
}

static void the_model_is_what_was_written(void)
{
    struct lexicon *lx =
        read_text("lexicon tank 7 \"A tank\" # with a comment\n"
                  "letters any-case shorten 4\n"
                  "output glow led active low pwm 3 at 20kHz safe 35%\n"
                  "command Glow {level 5..95%} => glow \"light\"\n"
                  "command set {side Left|right} {-40000..7mm} => set()\n"
                  "link a serial 9600 frame line receive 16 transmit 128 longest 99\n",
                  -1);
    const struct lex_output *out = lx->outputs->pdata[0];
    const struct lex_command *glow = lx->commands->pdata[0], *set = lx->commands->pdata[1];
    const struct lex_element *side = set->elements->pdata[1], *value = set->elements->pdata[2];
    const struct lex_link *link = lx->links->pdata[0];
    CHECK_INT(lx->faults->len, 0);
    CHECK_TEXT(lx->name, "tank");
    CHECK_TEXT(lx->title, "A tank");
    CHECK_INT(lx->version, 7);
    CHECK(lx->any_case && lx->shorten == 4);
    CHECK(out->pwm && out->active_low && out->pin == 3 && out->hz == 20000 && out->safe == 35);
    CHECK_INT(glow->effect.kind, LEX_LEVEL);
    CHECK_TEXT(glow->title, "light");
    CHECK_INT(glow->place.line, 4);
    CHECK_INT(glow->place.column, 8);
    CHECK_TEXT(side->text, "side");
    CHECK_TEXT(side->words->pdata[0], "left");
    CHECK(value->low == -40000 && value->high == 7);
    CHECK_TEXT(value->unit, "mm");
    CHECK_INT(lex_number_digits(value), 5);
    CHECK_TEXT(set->effect.handler, "set");
    CHECK(link->baud == 9600 && link->receive == 16 && link->transmit == 128);
    CHECK_INT(link->longest, 99);
    char *text = lex_command_text(set);
    CHECK_TEXT(text, "set {side left|right} {value -40000..7mm}");
    g_free(text);
    lexicon_free(lx);
}

static void c_names_of_choices(void)
{
    struct lexicon *lx = read_text("lexicon t 1\n"
                                   "command a {way up|down} => a()\n"
                                   "command b {way up|down} => b()\n"
                                   "command c {way in|out} => c()\n"
                                   "command d {x-1|y.2} => d()\n"
                                   "command e {toggle|on} => e()\n"
                                   "command f {n 0..255} {-1..5} {0..65535} {0..65536} => f()\n"
                                   "link l serial 9600 frame line\n",
                                   -1);
    static const char *const types[] = {"enum t_way", "enum t_way", "enum t_c_way",
                                        "enum t_x_1_y_2", "enum rlx_verb"};
    static const char *const numbers[] = {"uint8_t", "int16_t", "uint16_t", "int32_t"};
    CHECK_INT(lx->faults->len, 0);
    for (unsigned i = 0; i < G_N_ELEMENTS(types); i++) {
        const struct lex_command *command = lx->commands->pdata[i];
        const struct lex_element *slot = command->elements->pdata[1];
        char *type = lex_slot_of(slot)->type(lx, command, slot);
        CHECK_TEXT(type, types[i]);
        g_free(type);
    }
    const struct lex_command *f = lx->commands->pdata[5], *e = lx->commands->pdata[4];
    for (unsigned i = 0; i < G_N_ELEMENTS(numbers); i++) {
        const struct lex_element *slot = f->elements->pdata[i + 1];
        char *type = lex_slot_of(slot)->type(lx, f, slot);
        CHECK_TEXT(type, numbers[i]);
        g_free(type);
    }
    CHECK_INT(image_choice_value(e->elements->pdata[1], 0), RLX_TOGGLE);
    CHECK_INT(image_choice_value(e->elements->pdata[1], 1), RLX_ON);
    lexicon_free(lx);
}

/* Every word finds its group by the very steps of the core, and no two words that must be told
 * apart by their hash share one. */
static void check_hash(unsigned count, unsigned letters)
{
    GPtrArray *words = g_ptr_array_new_with_free_func(g_free);
    struct hash_table table;
    for (unsigned i = 0; i < count; i++)
        g_ptr_array_add(words, g_strdup_printf("w%u%c", i * 7919 % 100003, 'a' + (int)(i % 26)));
    test_context("%u words, %u letters", count, letters);
    CHECK(hash_arrange(&table, (char *const *)words->pdata, count, letters));
    unsigned *members = g_new0(unsigned, table.n_groups), most = 0;
    for (unsigned i = 0; i < count; i++) {
        unsigned hash = 0;
        const char *word = words->pdata[i];
        for (unsigned k = 0; word[k] && (!letters || k < letters); k++)
            hash = RLX_HASH_STEP(hash, (unsigned char)word[k]);
        hash &= 0xFFFF;
        uint16_t shift = table.shifts[hash & (table.n_shifts - 1)];
        unsigned group = RLX_HASH_GROUP(hash, shift, table.n_groups);
        CHECK_INT(group, table.group_of[i]);
        CHECK(group < table.n_groups);
        most = MAX(most, ++members[group]);
    }
    for (unsigned g = 0; g < table.n_groups; g++) CHECK(members[g] > 0); /* no gaps */
    if (!letters) CHECK(most <= 4); /* words with one hash of 65,536 */
    g_free(members);
    hash_clear(&table);
    g_ptr_array_free(words, TRUE);
}

static void hashes_without_gaps(void)
{
    static const unsigned counts[] = {1, 2, 9, 10, 63, 64, 65, 500, 4096};
    for (unsigned i = 0; i < G_N_ELEMENTS(counts); i++)
        for (unsigned letters = 0; letters <= 4; letters += 2) check_hash(counts[i], letters);
}

/* A lexicon of so many commands, each with a range of its own. */
static char *large_text(unsigned count)
{
    GString *text = g_string_new("lexicon large 1\nletters any-case shorten 5\n");
    for (unsigned i = 0; i < count; i++)
        g_string_append_printf(text, "command word%u {n 0..%u} => h%u()\n", i, i + 1, i);
    g_string_append(text, "link l serial 9600 frame line\n");
    return g_string_free(text, FALSE);
}

/* Beyond 256 shapes and handlers the entries are wider; the device must not notice. */
static void many_commands(void)
{
    static const unsigned counts[] = {8, 9, 250, 257, 1000};
    for (unsigned i = 0; i < G_N_ELEMENTS(counts); i++) {
        unsigned n = counts[i];
        char *text = large_text(n), *line;
        lexicon_free(read_text(text, -1));
        struct rig *rig = rig_new(path);
        test_context("%u commands", n);
        CHECK_INT(image_needs(rig->image, RLX_BIT_MANY), n > 256);
        CHECK_INT(image_needs(rig->image, RLX_BIT_HASH), n > 8);
        CHECK_INT(rig_start(rig, 0), 0);
        rig_run(rig);
        for (unsigned k = 0; k < n; k++) {
            char *reply = g_strdup_printf("ok word%u %u\r\n", k, k + 1);
            line = g_strdup_printf("WORD%u %u\r", k, k + 1);
            CHECK_TEXT(rig_say(rig, 0, line), reply);
            CHECK_INT(rig->value[0], (int)k + 1);
            g_free(line);
            g_free(reply);
        }
        line = g_strdup_printf("word%u 1\r", n);
        CHECK(g_str_has_prefix(rig_say(rig, 0, line), "err unknown word"));
        g_free(line);
        g_free(text);
        rig_free(rig);
    }
}

static void too_many_are_refused(void)
{
    char *text = large_text(9000);
    struct lexicon *lx = read_text(text, -1);
    CHECK(!image_build(lx));
    CHECK_INT(lx->faults->len, 1);
    CHECK(strstr(((struct lex_fault *)lx->faults->pdata[0])->text, "65535 is the most"));
    g_free(text);
    lexicon_free(lx);
}

/* The rows of the listing are all the bytes, in order. */
static void rows_cover_the_image(void)
{
    struct rig *rig = rig_new(LEXICONS "/families.lexicon");
    const struct image *image = rig->image;
    unsigned last = 0;
    for (unsigned i = 0; i < image->rows->len; i++) {
        const struct image_row *row = &g_array_index(image->rows, struct image_row, i);
        CHECK(i == 0 ? row->offset == 0 : row->offset > last);
        CHECK(*row->comment);
        last = row->offset;
    }
    CHECK(last < image->bytes->len);
    CHECK_INT(image->bytes->data[RLX_IMG_SIZE] | image->bytes->data[RLX_IMG_SIZE + 1] << 8,
              image->bytes->len);
    rig_free(rig);
}

/* The fingerprint changes with anything that the device would do otherwise. */
static void fingerprints_differ(void)
{
    static const char *const variants[] = {
        "command a => lamp on\nlink l serial 9600 frame line\n",
        "command b => lamp on\nlink l serial 9600 frame line\n",
        "command a => lamp off\nlink l serial 9600 frame line\n",
        "command a => lamp on\nlink l serial 9600 frame line longest 60\n",
        "letters any-case\ncommand a => lamp on\nlink l serial 9600 frame line\n",
    };
    GHashTable *seen = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(variants); i++) {
        for (int again = 0; again < 2; again++) {
            char *text = g_strconcat("lexicon t 1\noutput lamp led pin 1\n", variants[i], NULL);
            struct lexicon *lx = read_text(text, -1);
            struct image *image = image_build(lx);
            CHECK_INT(g_hash_table_add(seen, g_strdup(image->fingerprint)), !again);
            CHECK_INT(strlen(image->fingerprint), 8);
            image_free(image);
            lexicon_free(lx);
            g_free(text);
        }
    }
    g_hash_table_destroy(seen);
}

/* Any bytes: messages at places that exist, or a sound image; never a crash. */
static void check_any_bytes(const char *bytes, gssize size)
{
    struct lexicon *lx = read_text(bytes, size);
    struct image *image = image_build(lx);
    CHECK((image == NULL) == (lx->faults->len > 0));
    unsigned lines = g_strv_length(((struct lex_source *)lx->sources->pdata[0])->lines);
    for (unsigned i = 0; i < lx->faults->len; i++) {
        const struct lex_fault *fault = lx->faults->pdata[i];
        CHECK(fault->place.line <= lines);
        CHECK(*fault->text && !strchr(fault->text, '\n'));
    }
    char *text = lexicon_faults_text(lx, 20);
    CHECK((*text == 0) == (lx->faults->len == 0));
    g_free(text);
    image_free(image);
    lexicon_free(lx);
}

static void any_bytes_as_a_lexicon(void)
{
    static const char *const scraps[] = {
        "{",           "}",  "\"", "=>",         "=",         "|",        "..", "-",
        "99999999999", "%",  "\n", "\xFF",       "{a|b}",     "{n 1..2}", "()", "keys ",
        "toggle",      "\t", "#",  "frame line", "longest 9", "\r"};
    GRand *dice = g_rand_new_with_seed(1);
    char *start;
    gsize size;
    CHECK(g_file_get_contents(LEXICONS "/families.lexicon", &start, &size, NULL));
    for (unsigned i = 0; i < 3000 && test_failures() < 5; i++) {
        GString *text = g_string_new_len(start, (gssize)size);
        for (int k = g_rand_int_range(dice, 1, 10); k; k--) {
            gssize at = g_rand_int_range(dice, 0, (int)text->len);
            switch (g_rand_int_range(dice, 0, 4)) {
            case 0: g_string_erase(text, at, MIN(5, (gssize)text->len - at - 1)); break;
            case 1: text->str[at] = (char)g_rand_int_range(dice, 0, 256); break;
            default:
                g_string_insert(text, at, scraps[g_rand_int_range(dice, 0, G_N_ELEMENTS(scraps))]);
            }
        }
        test_context("run %u", i);
        check_any_bytes(text->str, (gssize)text->len);
        g_string_free(text, TRUE);
    }
    check_any_bytes("", 0);
    check_any_bytes("\0", 1);
    check_any_bytes("lexicon x 1\n\0", 13);
    g_free(start);
    g_rand_free(dice);
}

static const struct test_case cases[] = {
    {"the model is what was written", the_model_is_what_was_written},
    {"C names of choices", c_names_of_choices},
    {"hashes without gaps", hashes_without_gaps},
    {"many commands", many_commands},
    {"too many are refused", too_many_are_refused},
    {"rows cover the image", rows_cover_the_image},
    {"fingerprints differ", fingerprints_differ},
    {"any bytes as a lexicon", any_bytes_as_a_lexicon},
    {"clean up", clean_up},
};
TEST_MAIN(cases)
