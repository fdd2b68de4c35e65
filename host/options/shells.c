/* Completions for bash, zsh and fish from what the verbs take.
 * Verbs, options, the words of a choice, and files where an option or a verb takes one.
 * A shell's own way to complete files is used, no file is looked at here. */
#include "options/describe.h"

#include <string.h>

static bool is_file(const GOptionEntry *entry)
{
    static const char *const kinds[] = {"FILE", "PROGRAM", "DIR", "FOLDER", "PATH", NULL};
    return entry->arg_description && g_strv_contains(kinds, entry->arg_description);
}

static bool is_choice(const GOptionEntry *entry)
{
    return entry->arg_description && strchr(entry->arg_description, '|');
}

/* The end of the files that a verb takes. */
static const char *extension(const struct describe_verb *verb)
{
    const char *takes = describe_parameters(verb);
    return g_str_has_prefix(takes, "LEXICON") ? "lexicon"
           : g_str_has_prefix(takes, "FILE")  ? "scene"
           : g_str_has_prefix(takes, "TRACE") ? "jsonl"
                                              : NULL;
}

/* Within '...': a ' ends it, stands escaped, and begins it anew. */
static void put_quoted(GString *out, const char *text)
{
    g_string_append_c(out, '\'');
    for (; *text; text++)
        if (*text == '\'')
            g_string_append(out, "'\\''");
        else
            g_string_append_c(out, *text);
    g_string_append_c(out, '\'');
}

static void put_verbs(GString *out, const struct describe_verb *verbs, unsigned count)
{
    for (unsigned i = 0; i < count; i++) g_string_append_printf(out, "%s ", verbs[i].name);
}

char *describe_bash(const struct describe_verb *verbs, unsigned count)
{
    GString *out = g_string_new("# Completion of rlx for bash. Made by rlx help --write.\n"
                                "_rlx() {\n"
                                "    local cur=${COMP_WORDS[COMP_CWORD]} "
                                "option=${COMP_WORDS[COMP_CWORD-1]} verb=${COMP_WORDS[1]} "
                                "options= ends=\n"
                                "    COMPREPLY=()\n"
                                "    [ \"$cur\" = = ] && cur= && option==\n"
                                "    [ \"$option\" = = ] && option=${COMP_WORDS[COMP_CWORD-2]}\n"
                                "    if [ \"$COMP_CWORD\" -eq 1 ]; then\n"
                                "        COMPREPLY=($(compgen -W '");
    put_verbs(out, verbs, count);
    g_string_append(out, "help --help --version' -- \"$cur\"))\n        return\n    fi\n"
                         "    case $verb$option in\n    help*) COMPREPLY=($(compgen -W '");
    put_verbs(out, verbs, count);
    g_string_append(out, "' -- \"$cur\")); return 0 ;;\n");
    for (unsigned i = 0; i < count; i++)
        for (unsigned k = 0; describe_option(&verbs[i], k); k++) {
            const GOptionEntry *entry = describe_option(&verbs[i], k);
            if (!is_choice(entry) && !is_file(entry)) continue;
            g_string_append_printf(out, "    %s--%s", verbs[i].name, entry->long_name);
            if (entry->short_name)
                g_string_append_printf(out, "|%s-%c", verbs[i].name, entry->short_name);
            if (is_file(entry)) {
                g_string_append(out,
                                ") COMPREPLY=($(compgen -f -- \"$cur\")); compopt -o filenames "
                                "2>/dev/null; return 0 ;;\n");
                continue;
            }
            char *words = g_strdelimit(g_strdup(entry->arg_description), "|", ' ');
            g_string_append_printf(
                out, ") COMPREPLY=($(compgen -W '%s' -- \"$cur\")); return 0 ;;\n", words);
            g_free(words);
        }
    g_string_append(out, "    esac\n    case $verb in\n");
    for (unsigned i = 0; i < count; i++) {
        g_string_append_printf(out, "    %s) ends=%s options='--help", verbs[i].name,
                               extension(&verbs[i]) ? extension(&verbs[i]) : "");
        for (unsigned k = 0; describe_option(&verbs[i], k); k++)
            g_string_append_printf(out, " --%s%s", describe_option(&verbs[i], k)->long_name,
                                   describe_option(&verbs[i], k)->arg_description ? "=" : "");
        g_string_append(out, "' ;;\n");
    }
    g_string_append(out, "    esac\n"
                         "    if [[ $cur = -* ]]; then\n"
                         "        COMPREPLY=($(compgen -W \"$options\" -- \"$cur\"))\n"
                         "        [[ ${COMPREPLY[0]} = *= ]] && compopt -o nospace 2>/dev/null\n"
                         "    elif [ \"$ends\" ]; then\n"
                         "        COMPREPLY=($(compgen -f -X \"!*.$ends\" -- \"$cur\") "
                         "$(compgen -d -- \"$cur\"))\n"
                         "        compopt -o filenames 2>/dev/null\n"
                         "    fi\n"
                         "    return 0\n"
                         "}\n"
                         "complete -F _rlx rlx\n");
    return g_string_free(out, FALSE);
}

/* In _arguments a text of an option must not hold [ ] or : unescaped. */
static char *escaped(const char *text)
{
    GString *out = g_string_new(NULL);
    for (; *text; text++) {
        if (strchr("[]:\\", *text)) g_string_append_c(out, '\\');
        g_string_append_c(out, *text);
    }
    return g_string_free(out, FALSE);
}

static void zsh_option(GString *out, const GOptionEntry *entry)
{
    char *text = escaped(entry->description), *action = g_strdup("");
    if (is_file(entry)) {
        g_free(action);
        action = g_strdup(":file:_files");
    } else if (is_choice(entry)) {
        char *words = g_strdelimit(g_strdup(entry->arg_description), "|", ' ');
        g_free(action);
        action = g_strdup_printf(":word:(%s)", words);
        g_free(words);
    } else if (entry->arg_description) {
        char *what = g_ascii_strdown(entry->arg_description, -1), *safe = escaped(what);
        g_free(action);
        action = g_strdup_printf(":%s:", safe);
        g_free(what);
        g_free(safe);
    }
    const char *takes = entry->arg_description ? "=" : "";
    char *spec = g_strdup_printf("--%s%s[%s]%s", entry->long_name, takes, text, action);
    g_string_append(out, "            ");
    put_quoted(out, spec);
    g_free(spec);
    if (entry->short_name) {
        spec = g_strdup_printf("-%c[%s]%s", entry->short_name, text, action);
        g_string_append(out, " ");
        put_quoted(out, spec);
        g_free(spec);
    }
    g_string_append(out, " \\\n");
    g_free(action);
    g_free(text);
}

char *describe_zsh(const struct describe_verb *verbs, unsigned count)
{
    GString *out =
        g_string_new("#compdef rlx\n# Completion of rlx for zsh. Made by rlx help --write.\n"
                     "local -a verbs\nverbs=(\n");
    for (unsigned i = 0; i < count; i++) {
        char *text = g_strdup_printf("%s:%s", verbs[i].name, verbs[i].what);
        g_string_append(out, "    ");
        put_quoted(out, text);
        g_string_append_c(out, '\n');
        g_free(text);
    }
    g_string_append(out, "    'help:print the options of a verb'\n)\n"
                         "if (( CURRENT == 2 )); then\n    _describe verb verbs\n    return\nfi\n"
                         "local verb=${words[2]}\nshift words\n(( CURRENT-- ))\ncase $verb in\n"
                         "    help) _describe verb verbs ;;\n");
    for (unsigned i = 0; i < count; i++) {
        const char *ends = extension(&verbs[i]);
        g_string_append_printf(out, "    %s)\n        _arguments \\\n", verbs[i].name);
        for (unsigned k = 0; describe_option(&verbs[i], k); k++)
            zsh_option(out, describe_option(&verbs[i], k));
        if (ends)
            g_string_append_printf(out, "            '*:file:_files -g \"*.%s\"' ;;\n", ends);
        else
            g_string_append(out, "            '*:folder:_files -/' ;;\n");
    }
    g_string_append(out, "esac\n");
    return g_string_free(out, FALSE);
}

static void fish_option(GString *out, const char *verb, const GOptionEntry *entry)
{
    g_string_append_printf(out, "complete -c rlx -n '__fish_seen_subcommand_from %s' -l %s", verb,
                           entry->long_name);
    if (entry->short_name) g_string_append_printf(out, " -s %c", entry->short_name);
    if (is_file(entry)) {
        g_string_append(out, " -rF");
    } else if (is_choice(entry)) {
        char *words = g_strdelimit(g_strdup(entry->arg_description), "|", ' ');
        g_string_append_printf(out, " -x -a '%s'", words);
        g_free(words);
    } else if (entry->arg_description) {
        g_string_append(out, " -x");
    }
    g_string_append(out, " -d ");
    char **parts = g_strsplit(entry->description, "'", -1), *text = g_strjoinv("\\'", parts);
    g_string_append_printf(out, "'%s'\n", text);
    g_strfreev(parts);
    g_free(text);
}

char *describe_fish(const struct describe_verb *verbs, unsigned count)
{
    GString *out = g_string_new("# Completion of rlx for fish. Made by rlx help --write.\n"
                                "complete -c rlx -n __fish_use_subcommand -f\n");
    for (unsigned i = 0; i < count; i++)
        g_string_append_printf(out, "complete -c rlx -n __fish_use_subcommand -a %s -d '%s'\n",
                               verbs[i].name, verbs[i].what);
    g_string_append(
        out, "complete -c rlx -n __fish_use_subcommand -a help -d 'print the options of a verb'\n");
    g_string_append(out, "complete -c rlx -n '__fish_seen_subcommand_from help' -f -a '");
    put_verbs(out, verbs, count);
    g_string_append(out, "'\n");
    for (unsigned i = 0; i < count; i++)
        for (unsigned k = 0; describe_option(&verbs[i], k); k++)
            fish_option(out, verbs[i].name, describe_option(&verbs[i], k));
    return g_string_free(out, FALSE);
}
