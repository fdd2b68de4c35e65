/* Writes NAME.c: the tables, what calls the handlers, and NAME_init().
 * With RLX_FIXED the tables are the library's own, without their header.
 * The bytes of the image come from table_image.c. */
#include "lexicon/write/emit_parts.h"

#include <string.h>

#include "lexicon/names.h"
#include "rlx/image.h"

static void put_row(struct emit *e, const struct image_row *row, unsigned end)
{
    char *comment = emit_comment(row->comment);
    emit_put(e, "    /* %u: %s */\n", row->offset, comment);
    g_free(comment);
    for (unsigned at = row->offset; at < end; at++)
        emit_put(e, "%s0x%02X,%s", (at - row->offset) % 16 ? " " : "    ",
                 e->image->bytes->data[at],
                 at + 1 == end || (at - row->offset) % 16 == 15 ? "\n" : "");
}

/* The header comes first; with RLX_FIXED the library knows it from NAME_config.h. */
static void put_bytes(struct emit *e)
{
    const GArray *rows = e->image->rows;
    unsigned size = e->image->bytes->len;
    emit_put(e, "\n#if RLX_FIXED\nRLX_ALIGNED(2) const uint8_t rlx_image_%s[%u] RLX_ROM = {\n",
             e->image->fingerprint, size - RLX_IMG_HEADER);
    emit_put(e, "#else\nRLX_ALIGNED(2) static const uint8_t image[%u] RLX_ROM = {\n", size);
    for (unsigned i = 0; i < rows->len; i++) {
        const struct image_row *row = &g_array_index(rows, struct image_row, i);
        put_row(e, row, i + 1 < rows->len ? row[1].offset : size);
        if (!i) emit_put(e, "#endif\n");
    }
    emit_put(e, "};\n");
}

/* The arguments that a slot gives, as types or as values. */
static void put_arguments(struct emit *e, char **types, bool values)
{
    for (unsigned i = 0, at = 0; types[i]; i++, at++) {
        if (g_str_equal(types[i], "text")) {
            if (values)
                emit_put(e, ", RLX_TEXT_AT_OF(frame, value[%u]), RLX_TEXT_LENGTH_OF(value[%u])", at,
                         at);
            else
                emit_put(e, ", const char *, uint8_t");
        } else if (g_str_has_prefix(types[i], "list:")) {
            if (values)
                emit_put(e, ", &value[%u], (uint8_t)value[%u]", at + 1, at);
            else
                emit_put(e, ", const rlx_value *, uint8_t");
            at += (unsigned)g_ascii_strtoull(types[i] + strlen("list:"), NULL, 10);
        } else if (values) {
            emit_put(e, ", (%s)value[%u]", types[i], at);
        } else {
            emit_put(e, ", %s", types[i]);
        }
    }
}

/* An invoker whose last arguments the handler fills in: behind the values that it is given. */
static void put_asker(struct emit *e, char **types, unsigned told)
{
    unsigned n = g_strv_length(types), at = 0;
    char **given = g_new0(char *, n + 1);
    for (unsigned i = 0; i < n - told; i++) {
        given[i] = types[i];
        at++;
        if (g_str_has_prefix(types[i], "list:"))
            at += (unsigned)g_ascii_strtoull(types[i] + strlen("list:"), NULL, 10);
    }
    if (!g_strv_contains((const char *const *)given, "text")) emit_put(e, "    (void)frame;\n");
    for (unsigned i = n - told; i < n; i++) {
        char *type = g_strndup(types[i], strlen(types[i]) - strlen(" *"));
        emit_put(e, "    %s asked%u = (%s)0;\n", type, i, type);
        g_free(type);
    }
    emit_put(e, "    int done = ((int (*)(struct %s *", e->lx->name);
    put_arguments(e, given, false);
    for (unsigned i = n - told; i < n; i++) emit_put(e, ", %s", types[i]);
    emit_put(e, "))fn)((struct %s *)user", e->lx->name);
    put_arguments(e, given, true);
    for (unsigned i = n - told; i < n; i++) emit_put(e, ", &asked%u", i);
    emit_put(e, ");\n");
    for (unsigned i = n - told; i < n; i++)
        emit_put(e, "    value[%u] = (rlx_value)asked%u;\n", at++, i);
    emit_put(e, "    return done;\n}\n");
    g_free(given);
}

static unsigned told_of(char *const *types)
{
    unsigned told = 0;
    for (; *types; types++) told += g_str_has_suffix(*types, " *") ? 1 : 0;
    return told;
}

/* An rlx_invoke for each signature. */
static void put_invoker(struct emit *e, unsigned index)
{
    char **types = g_strsplit(e->image->signatures->pdata[index], ",", -1);
    emit_put(e,
             "\nstatic int call_%u(rlx_fn fn, void *user, rlx_value *value, const uint8_t "
             "*frame)\n{\n",
             index);
    if (told_of(types)) {
        put_asker(e, types, told_of(types));
        g_strfreev(types);
        return;
    }
    if (!*types) emit_put(e, "    (void)value;\n");
    if (!g_strv_contains((const char *const *)types, "text")) emit_put(e, "    (void)frame;\n");
    emit_put(e, "    return ((int (*)(struct %s *", e->lx->name);
    put_arguments(e, types, false);
    emit_put(e, "))fn)((struct %s *)user", e->lx->name);
    put_arguments(e, types, true);
    emit_put(e, ");\n}\n");
    g_strfreev(types);
}

static void put_calls(struct emit *e)
{
    const struct image *image = e->image;
    for (unsigned i = 0; i < image->signatures->len; i++) put_invoker(e, i);
    emit_put(e,
             "\n#if RLX_FIXED\nconst rlx_fn rlx_invokers_%s[] RLX_ROM = {\n#else\n"
             "static const rlx_fn invokers[] RLX_ROM = {\n#endif\n",
             e->image->fingerprint);
    for (unsigned i = 0; i < image->signatures->len; i++)
        emit_put(e, "    (rlx_fn)call_%u, /* (%s) */\n", i,
                 (char *)image->signatures->pdata[i]); /* types only */
    emit_put(e,
             "};\n#if RLX_FIXED\nconst rlx_fn rlx_handlers_%s[] RLX_ROM = {\n#else\n"
             "static const rlx_fn handlers[] RLX_ROM = {\n#endif\n",
             e->image->fingerprint);
    for (unsigned i = 0; i < image->handlers->len; i++) {
        const struct lex_command *command = image->handlers->pdata[i];
        emit_put(e, "    (rlx_fn)%s_%s,\n", e->lx->name, command->effect.handler);
    }
    emit_put(e, "};\n");
}

static void put_init(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    const char *name = lx->name;
    emit_put(e, "\nint %s_init(struct %s *%s, void *port, enum rlx_reset cause)\n{\n", name, name,
             name);
    emit_put(e, "#if !RLX_FIXED_BUFFER\n");
    for (unsigned i = 0; i < lx->links->len; i++)
        emit_put(e, "    %s->link[%u].buffer = %s->%s_buffer;\n", name, i, name,
                 ((struct lex_link *)lx->links->pdata[i])->name);
    emit_put(e, "#endif\n");
    for (unsigned i = 0; i < lx->links->len; i++) {
        const struct lex_link *link = lx->links->pdata[i];
        if (link->tags)
            emit_put(e, "    %s->link[%u].senders = %s->%s_senders;\n", name, i, name, link->name);
        if (link->seal)
            emit_put(e, "    %s->link[%u].sessions = %s->%s_sessions;\n", name, i, name,
                     link->name);
        if (lex_drives_modem(link))
            emit_put(e, "    %s->link[%u].sms = &%s->%s_sms;\n", name, i, name, link->name);
    }
    for (unsigned i = 0; lx->events->len && i < lx->links->len; i++)
        emit_put(e, "    %s->link[%u].events = %s->events[%u];\n", name, i, name, i);
    if (e->image->handlers->len) emit_put(e, "    %s->device.user = %s;\n", name, name);
    emit_put(e, "#if !RLX_FIXED\n    %s->device.image = image;\n", name);
    if (e->image->handlers->len)
        emit_put(e, "    %s->device.handlers = handlers;\n    %s->device.invokers = invokers;\n",
                 name, name);
    emit_put(e, "    %s->device.links = %s->link;\n", name, name);
    if (lx->outputs->len) emit_put(e, "    %s->device.outputs = %s->output;\n", name, name);
    if (lx->inputs->len) emit_put(e, "    %s->device.inputs = %s->input;\n", name, name);
    if (lx->routines->len) emit_put(e, "    %s->device.routines = %s->routine;\n", name, name);
    if (lex_n_settings(lx)) emit_put(e, "    %s->device.settings = %s->setting;\n", name, name);
    if (e->image->setting_texts)
        emit_put(e, "    %s->device.setting_texts = %s->setting_texts;\n", name, name);
    emit_put(e, "#endif\n");
    emit_put(e, "    %s->device.port = port;\n    return rlx_init(&%s->device, cause);\n}\n", name,
             name);
}

/* The memory is where the library looks for it, and the tables are those of its build. */
static void put_places(struct emit *e)
{
    const struct lexicon *lx = e->lx;
    const char *first = ((struct lex_link *)lx->links->pdata[0])->name;
    char *buffer = g_strconcat(first, "_buffer", NULL);
    const struct {
        const char *member, *fixed;
        bool has;
    } all[] = {{"link", "link", true},
               {"output", "output", lx->outputs->len},
               {"input", "input", lx->inputs->len},
               {"routine", "routine", lx->routines->len},
               {"setting", "setting", lex_n_settings(lx)},
               {"setting_texts", "setting_texts", e->image->setting_texts},
               {buffer, "buffer", true}};
    emit_put(e,
             "\n#if RLX_FIXED\nRLX_STATIC_ASSERT(RLX_FIXED_FINGERPRINT == 0x%su,\n"
             "                  \"the library is built for another lexicon: use its own "
             "NAME_config.h, or -DRLX_FIXED=0\");\n",
             e->image->fingerprint);
    for (unsigned i = 0; i < G_N_ELEMENTS(all); i++)
        if (all[i].has)
            emit_put(e,
                     "RLX_STATIC_ASSERT(offsetof(struct %s, %s) == offsetof(struct rlx_fixed, "
                     "%s), \"made by another rlx\");\n",
                     lx->name, all[i].member, all[i].fixed);
    emit_put(e, "#endif\n");
    g_free(buffer);
}

void emit_source(struct emit *e)
{
    emit_made_by(e);
    emit_put(e, "#include \"%s.h\"\n#include \"rlx/image.h\"\n#include \"rlx/tables.h\"\n",
             e->lx->name);
    emit_asserts(e);
    put_places(e);
    put_bytes(e);
    if (e->image->handlers->len) put_calls(e);
    put_init(e);
}
