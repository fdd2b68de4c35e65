/* maker LEXICON LINK: writes a program in which the emitted sender of this link commands the
 * emitted device: handlers that keep what they get, and for each request how it is sent, what the
 * handler must have got, and what must be heard. sent.h runs it. */
#include <stdio.h>
#include <string.h>

#include "world/run/keys.h"
#include "lexicon/answers.h"
#include "lexicon/framing.h"
#include "lexicon/slot.h"
#include "rlx/image.h"
#include "sender/sender_parts.h"

static const struct lexicon *lx;
static struct sender s;

static unsigned slots_of(const GPtrArray *elements, const struct lex_element **slots)
{
    unsigned n = 0;
    for (unsigned i = 0; elements && i < elements->len; i++) {
        const struct lex_element *e = elements->pdata[i];
        if (e->kind != LEX_WORD) slots[n++] = e;
    }
    return n;
}

/* ---- the device's handlers ---- */

static void put_handler(const struct lex_command *command, GHashTable *done)
{
    const struct lex_element *slots[16];
    if (!command->effect.handler || !g_hash_table_add(done, command->effect.handler)) return;
    unsigned n = slots_of(lex_arguments(command), slots);
    GString *keeps = g_string_new(NULL);
    printf("int %s_%s(struct %s *it", lx->name, command->effect.handler, lx->name);
    for (unsigned i = 0; i < n; i++) {
        const struct lex_slot *of = lex_slot_of(slots[i]);
        char *type = of->type(lx, command, slots[i]);
        if (lex_is_told(command, slots[i])) {
            printf(", %s *a%u", type, i);
            g_string_append_printf(keeps, "    *a%u = (%s)answer(%u);\n", i, type, i);
        } else if (of->count) {
            printf(", const %s *a%u, uint8_t a%u_count", of->points_to, i, i);
            g_string_append_printf(
                keeps,
                slots[i]->kind == LEX_TEXT
                    ? "    got_text((const char *)a%u, a%u_count);\n"
                    : "    for (uint8_t i = 0; i < a%2$u_count; i++) got((int32_t)a%1$u[i]);\n",
                i, i);
        } else {
            printf(", %s a%u", type, i);
            g_string_append_printf(keeps, "    got((int32_t)a%u);\n", i);
        }
        g_free(type);
    }
    printf(")\n{\n    (void)it;\n    got_begin(\"%s\");\n%s    return handled.returns;\n}\n",
           command->effect.handler, keeps->str);
    g_string_free(keeps, TRUE);
}

/* ---- requests ---- */

static void put_slot(const struct lex_element *e)
{
    static const char *const kinds[] = {
        [LEX_WORD] = "WORD", [LEX_SET] = "SET",       [LEX_TEXT] = "TEXT",
        [LEX_LIST] = "LIST", [LEX_CHOICE] = "CHOICE", [LEX_NUMBER] = "NUMBER"};
    bool words = e->kind == LEX_CHOICE || e->kind == LEX_SET;
    int32_t high = e->kind == LEX_CHOICE ? (int32_t)e->words->len - 1
                   : e->kind == LEX_SET  ? (1 << e->words->len) - 1
                                         : e->high;
    printf("        {IS_%s, %d, %d, %d, %d, %d, %u, {", e->rest ? "REST" : kinds[e->kind],
           words ? 0 : e->low, high, e->scaled && !e->own, e->to_low, e->to_high, e->most);
    for (unsigned i = 0; words && i < e->words->len; i++)
        printf("{\"%s\", %d}, ", (char *)e->words->pdata[i],
               (int)(e->kind == LEX_SET ? 1u << i : image_choice_value(e, i)));
    printf("{0, 0}}},\n");
}

/* So many of its slots are sent. */
static unsigned sent_of(const struct request *r)
{
    unsigned sent = 0;
    for (unsigned i = 0; i < r->sent; i++)
        sent += ((const struct lex_element *)r->slots->pdata[i])->kind != LEX_WORD;
    return sent;
}

/* How far off an answer's value may be: a field of bytes that is narrower than its slot has not all
 * of its values. */
static unsigned off_by(const struct lex_element *e)
{
    for (unsigned i = 0; s.link->layout && i < s.link->layout->rows->len; i++) {
        const struct lex_packed *row = s.link->layout->rows->pdata[i];
        for (unsigned k = 0; k < row->answers->len; k++) {
            const struct lex_field *field = row->answers->pdata[k];
            int64_t range = (int64_t)e->high - e->low, width = (int64_t)field->to - field->from;
            if (field->of != e || field->what != RLX_FLD_SCALED) continue;
            return (unsigned)(range / (2 * (width < 0 ? -width : width)) + 1);
        }
    }
    return 0;
}

/* The functions that send it and look at what was heard. */
static void put_functions(const struct request *r, unsigned number)
{
    const struct lex_element *slots[16];
    unsigned n = slots_of(r->slots, slots);
    const bool named = r->kind == REQUEST_COMMAND || r->kind == REQUEST_BUILT_IN;
    const unsigned sent = sent_of(r);
    printf("static int send_%u(const struct drawn *d)\n{\n    (void)d;\n    return "
           "(int)%s_%s%s(&sender",
           number, s.prefix, named ? "send_" : "", r->name);
    for (unsigned i = 0; i < sent; i++) {
        char *type = sender_argument(&s, r, slots[i]);
        switch (slots[i]->kind) {
        case LEX_TEXT: printf(", d[%u].text", i); break;
        case LEX_LIST: {
            char *of = g_strndup(type, strcspn(type, "*"));
            printf(", list_%s(&d[%u]), d[%u].count",
                   strstr(of, "uint8")    ? "u8"
                   : strstr(of, "uint16") ? "u16"
                   : strstr(of, "int16")  ? "s16"
                                          : "s32",
                   i, i);
            g_free(of);
            break;
        }
        case LEX_CHOICE: {
            char *of = sender_enum_name(&s, r, slots[i]);
            printf(", (enum %s)d[%u].value", of, i);
            g_free(of);
            break;
        }
        case LEX_WORD:
        case LEX_SET:
        case LEX_NUMBER: {
            char *of = g_strndup(type, strcspn(type, " "));
            printf(", (%s)d[%u].value", of, i);
            g_free(of);
            break;
        }
        }
        g_free(type);
    }
    printf(");\n}\nstatic bool heard_%u(const struct %s_heard *h, const struct drawn *d)\n{\n    "
           "(void)h, (void)d;\n",
           number, s.prefix);
    if (r->kind == REQUEST_SETTING) n = 0;
    for (unsigned i = 0; i < n; i++) {
        char *name = sender_slot_name(r->slots, slots[i]);
        char *member = g_strdup_printf("h->is.%s.%s", r->member, name);
        if (slots[i]->kind == LEX_TEXT)
            printf("    if (!same_text(%s, %s_count, d[%u].text)) return false;\n", member, member,
                   i);
        else if (slots[i]->kind == LEX_LIST)
            printf("    if (%s_count != d[%u].count) return false;\n    for (uint8_t i = 0; i < "
                   "d[%u].count; i++)\n"
                   "        if (%s[i] != d[%u].list[i]) return false;\n",
                   member, i, i, member, i);
        else
            printf(
                "    if (!same_value((int32_t)%s, &d[%u], h->on) && !is_near((int32_t)%s, &d[%u], "
                "%u)) return false;\n",
                member, i, member, i, off_by(slots[i]));
        g_free(member), g_free(name);
    }
    printf("    return true;\n}\n");
}

static void put_request(const struct request *r, unsigned number)
{
    const struct lex_element *slots[16];
    unsigned n =
        r->kind == REQUEST_SETTING ? 0 : slots_of(r->slots, slots); /* it is as it was set */
    bool calls = r->command && r->command->effect.kind == LEX_CALL;
    const struct lex_query *query = NULL;
    for (unsigned i = 0; r->kind == REQUEST_QUERY && i < lx->queries->len; i++)
        if (!strcmp(((struct lex_query *)lx->queries->pdata[i])->name, r->word))
            query = lx->queries->pdata[i];
    printf("    {\"%s\", %s%s%s, %d, %u, %u, send_%u, heard_%u, {\n", r->name,
           calls || query ? "\"" : "",
           calls   ? r->command->effect.handler
           : query ? query->handler
                   : "0",
           calls || query ? "\"" : "", r->newest, n, sent_of(r), number, number);
    for (unsigned i = 0; i < n; i++) put_slot(slots[i]);
    printf("        {0}}},\n");
}

/* How many texts the keys say in which numbers and choices only stand. */
static unsigned plain_keys(void)
{
    GHashTable *texts = g_hash_table_new(g_str_hash, g_str_equal);
    for (unsigned i = 0; i < s.link->keys->len; i++) {
        const struct lex_key *key = s.link->keys->pdata[i];
        int32_t values[15];
        unsigned given;
        char *digits = g_strdelimit(g_strdup(key->text), "#", '1');
        const struct lex_command *command = lex_command_taking(lx, digits, values, &given);
        bool plain = command != NULL;
        for (unsigned k = 0; plain && k < command->elements->len; k++) {
            const struct lex_element *e = command->elements->pdata[k];
            plain = e->kind != LEX_TEXT && e->kind != LEX_LIST;
        }
        if (plain) g_hash_table_add(texts, key->text);
        g_free(digits);
    }
    unsigned count = g_hash_table_size(texts);
    g_hash_table_destroy(texts);
    return count;
}

/* Each word of the events that the firmware sends. */
static void put_fired(void)
{
    GString *rows = g_string_new("const struct fired fired[] = {\n");
    for (unsigned i = 0; i < lx->events->len; i++) {
        const struct lex_event *event = lx->events->pdata[i];
        unsigned words = event->what ? event->what->words->len : 1;
        for (unsigned k = 0; !event->input && sender_has_event(&s, event) && k < words; k++) {
            printf("static int fire_%u_%u(void) { return %s_send_%s(&device", i, k, lx->name,
                   event->name);
            if (event->what) printf(", (enum %s_event_%s)%u", lx->name, event->name, k);
            printf("); }\n");
            g_string_append_printf(rows, "    {\"%s\", %u, %u, fire_%u_%u},\n", event->name, i + 1,
                                   event->what ? k : 255, i, k);
        }
    }
    printf("%s    {0}};\n", rows->str);
    g_string_free(rows, TRUE);
}

/* Whether all answers come in full, in the library's words. */
static bool is_full(const struct lex_link *link)
{
    bool says = false;
    for (unsigned i = 0; i < lx->commands->len; i++)
        says |= answer_is_on(lx->commands->pdata[i], link);
    return link->replies == LEX_REPLIES_FULL && !link->layout && !link->texts->len && !says &&
           !link->may_not_fit;
}

/* Gives the device its keys. */
static void put_keys(void)
{
    printf("static void give_keys(void)\n{\n");
    for (unsigned i = 0; i < lx->seal_keys->len; i++) {
        const struct lex_seal_key *k = lx->seal_keys->pdata[i];
        char *sample = keys_sample(k->name);
        printf("    %s_key_%s(&device, \"%s\", %u);\n", lx->name, k->name, sample,
               (unsigned)strlen(sample));
        g_free(sample);
    }
    printf("}\n");
}

/* The sender has the last one that can command. */
static void put_own_key(void)
{
    GPtrArray *keys = lex_keys_of(lx, s.link);
    unsigned key = 0;
    for (unsigned i = 0; i < keys->len; i++)
        if (((struct lex_seal_key *)keys->pdata[i])->sender || !s.link->senders) key = i;
    for (unsigned i = 0; i < keys->len; i++) {
        char *sample = keys_sample(((struct lex_seal_key *)keys->pdata[i])->name);
        if (!i) printf("static const char key_to_all[] = \"%s\";\n", sample);
        if (i == key)
            printf("#define KEY SENDER_IS(KEY_%s)\nstatic const char key_text[] = \"%s\";\n",
                   g_ascii_strup(((struct lex_seal_key *)keys->pdata[i])->name, -1), sample);
        g_free(sample);
    }
    g_ptr_array_free(keys, TRUE);
}

int main(int argc, char **argv)
{
    struct lexicon *read = argc == 3 ? lexicon_read(argv[1], NULL) : NULL;
    struct image *image = read ? image_build(read) : NULL;
    lx = read;
    if (!image || !lexicon_link(read, argv[2])) return 2;
    sender_begin(&s, lx, image, lexicon_link(lx, argv[2]));
    const char *both = s.prefix, *upper = s.upper;
    char *large = g_ascii_strup(lx->name, -1), *link = g_ascii_strup(argv[2], -1);
    put_own_key();
    printf("#include \"%s.h\"\n#include \"%s.h\"\n#define DEVICE struct %s\n#define DEVICE_INIT "
           "%s_init\n"
           "#define LINK %s_LINK_%s\n#define SENDER(name) %s_##name\n#define SENDER_IS(name) "
           "%s_##name\n"
           "#define SENDER_TYPE struct %s\n#define HEARD_TYPE struct %s_heard\n"
           "#define KEPT %d\n#define TAGGED %d\n#define SEALED %d\n#define SOURCED %d\n#define SILENT %d\n#define "
           "FULL %d\n#define "
           "PACKETS %d\n#define REPORTS %d\n#define MESSAGES %d\n"
           "#define GAP_MS %u\n#define KEYS %u\n#define KEYED %d\n#define CODED %d\n#define BYTES "
           "%d\n#define LINKS "
           "%s_LINKS\n#include \"sent.h\"\n",
           lx->name, both, lx->name, lx->name, large, link, both, upper, both, both,
           s.link->tags_kept, s.link->tags != 0, s.link->seal != 0, s.link->senders > 0, !sender_is_answered(s.link),
           is_full(s.link), lex_packet_bytes(s.link) != 0, s.link->frame == LEX_FRAME_REPORT,
           s.link->medium == LEX_SMS, s.link->gap, plain_keys(),
           lex_is_keyed(s.link) && !s.link->lead, s.link->code != NULL, s.link->layout != NULL,
           large);
    put_keys();
    GHashTable *done = g_hash_table_new(g_str_hash, g_str_equal);
    GPtrArray *callers = lex_callers(lx);
    for (unsigned i = 0; i < callers->len; i++) put_handler(callers->pdata[i], done);
    for (unsigned i = 0; i < lx->queries->len; i++)
        put_handler(((struct lex_query *)lx->queries->pdata[i])->asked, done);
    for (unsigned i = 0; i < s.requests->len; i++) put_functions(s.requests->pdata[i], i);
    printf("const struct tried tried[] = {\n");
    for (unsigned i = 0; i < s.requests->len; i++) put_request(s.requests->pdata[i], i);
    printf("    {0}};\n");
    put_fired();
    g_ptr_array_free(callers, TRUE);
    g_hash_table_destroy(done);
    sender_end(&s);
    g_free(large), g_free(link);
    image_free(image);
    lexicon_free(read);
    return 0;
}
