/* What a command or setting waits for: `only while service on and door closed`, and the code that
 * opens it: `code pin`. Inputs, outputs and settings are found when everything is read.
 * What inputs permit outputs is read in read_output.c. */
#include <string.h>

#include "lexicon/read/reader.h"
#include "rlx/image.h"

bool lex_read_guards(struct statement *st, struct lex_command *command)
{
    if (!command->guards) command->guards = g_ptr_array_new_with_free_func(lex_permit_free);
    return statement_permits(st, command->guards, RLX_GOES_ANY, "an output or input");
}

bool lex_read_code(struct statement *st, struct lex_command *command)
{
    g_free(command->code);
    command->code = statement_name(st, "the setting that holds the code");
    return command->code != NULL;
}

bool lex_opens(const struct lexicon *lx, const char *setting)
{
    for (unsigned i = 0; i < lx->commands->len; i++)
        if (!g_strcmp0(((struct lex_command *)lx->commands->pdata[i])->code, setting)) return true;
    return false;
}

/* ---- when everything is read ---- */

static void finish_guard(struct lexicon *lx, struct lex_permit *guard)
{
    int output = lexicon_output_index(lx, guard->name);
    guard->out = output < 0 ? NULL : lx->outputs->pdata[output];
    lex_find_permit(lx, guard, "output or input");
}

static void finish_code(struct lexicon *lx, const struct lex_command *command)
{
    const struct lex_setting *setting = lexicon_setting(lx, command->code);
    const struct lex_element *slot = NULL;
    unsigned slots = 0;
    for (unsigned i = 0; i < command->elements->len; i++) {
        const struct lex_element *e = command->elements->pdata[i];
        if (e->kind == LEX_WORD) continue;
        slot = e;
        slots++;
    }
    if (!setting || !setting->slot || setting->slot->kind != LEX_TEXT)
        lex_fault(lx, command->place,
                  "'code %s': there is no setting '%s' that is a text, like: setting %s {text "
                  "6..12} = \"\"",
                  command->code, command->code, command->code);
    else if (slots != 1 || slot->kind != LEX_TEXT || slot->rest || slot->optional)
        lex_fault(lx, command->place,
                  "a command with a code has one slot, which is a text: {code text %d..%d}",
                  setting->slot->low, setting->slot->high);
    else if (command->effect.kind == LEX_STORE || command->says || command->newest ||
             command->expires || command->effect.which)
        lex_fault(lx, command->place,
                  "a command with a code only opens something, like: => service on for 10min");
}

void finish_guards(struct lexicon *lx)
{
    for (unsigned i = 0; i < lx->commands->len; i++) {
        struct lex_command *command = lx->commands->pdata[i];
        for (unsigned k = 0; command->guards && k < command->guards->len; k++)
            finish_guard(lx, command->guards->pdata[k]);
        if (command->code) finish_code(lx, command);
    }
}
