/* Writes the files of a new project from the templates that are in the tool.
 * Nothing is written over: the folder is new, or empty.
 * What a bundle is decides bundle.c. */
#include "bundle/new.h"

#include <errno.h>
#include <gio/gio.h>
#include <glib/gstdio.h>
#include <string.h>

#define TEMPLATES "/rlx/host/bundle/project/"

/* Template, and the file that it becomes, with the project's name for NAME. */
static const struct {
    const char *from, *to;
    bool make, cmake, runs;
    const char *more; /* what is behind it for a chip */
} files[] = {{"project.lexicon", "NAME.lexicon", true, true, false, NULL},
             {"firmware.c.in", "firmware.c", true, true, false, NULL},
             {"project.scene", "NAME.scene", true, true, false, NULL},
             {"CMakeLists.txt", "CMakeLists.txt", false, true, false, "chip.cmake"},
             {"Makefile", "Makefile", true, false, false, "chip.make"},
             {"ci.cmake", "ci", false, true, true, NULL},
             {"ci.make", "ci", true, false, true, NULL},
             {"gitignore", ".gitignore", true, true, false, NULL}};

/* What a chip's project is built with. */
static const struct chip {
    const char *port, *called, *tools, *options, *link;
} chips[] = {
    {"cortex_m0", "a Cortex-M0 with the registers of an nRF51", "arm-none-eabi",
     "-mcpu=cortex-m0 -mthumb", "-nostdlib -T chip/nrf51.ld"},
    {"cortex_m3", "a Cortex-M3 with the registers of an LM3S6965", "arm-none-eabi",
     "-mcpu=cortex-m3 -mthumb", "-nostdlib -T chip/lm3s6965.ld"},
    {"avr", "an ATmega328P", "avr", "-mmcu=atmega328p -mrelax -fno-move-loop-invariants", ""},
    {"riscv", "a RISC-V with the devices of QEMU's virt machine", "riscv64-unknown-elf",
     "-march=rv32imac -misa-spec=2.2 -mabi=ilp32 -msmall-data-limit=0",
     "-nostdlib -Wl,--no-warn-rwx-segments -T chip/virt.ld"},
};

const char *new_why_not(const char *name)
{
    if (!g_ascii_islower(*name)) return "it begins with a small letter";
    for (const char *c = name; *c; c++)
        if (!g_ascii_islower(*c) && !g_ascii_isdigit(*c) && *c != '_')
            return "it has small letters, digits and _ only, as it becomes part of the C";
    return strlen(name) > 24 ? "it has at most 24 characters" : NULL;
}

/* With the name, and what the chip (NULL: none) is built with, in their places. Owned by the
 * caller. */
static char *filled(const char *template, const char *name, const struct chip *chip)
{
    char *at = g_strconcat(TEMPLATES, template, NULL), *upper = g_ascii_strup(name, -1);
    GBytes *bytes = g_resources_lookup_data(at, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
    gsize n = 0;
    const char *data = bytes ? g_bytes_get_data(bytes, &n) : "";
    GString *text = g_string_new_len(data, (gssize)n);
    g_string_replace(text, "@NAME@", name, 0);
    g_string_replace(text, "@UPPER@", upper, 0);
    if (chip) {
        g_string_replace(text, "@PORT@", chip->port, 0);
        g_string_replace(text, "@CHIP@", chip->called, 0);
        g_string_replace(text, "@TOOLS@", chip->tools, 0);
        g_string_replace(text, "@OPTIONS@", chip->options, 0);
        g_string_replace(text, *chip->link ? "@LINK@" : "@LINK@ ", chip->link, 0);
    }
    if (bytes) g_bytes_unref(bytes);
    g_free(upper);
    g_free(at);
    return g_string_free(text, FALSE);
}

static bool is_free(const char *folder, GError **error)
{
    GDir *dir = g_dir_open(folder, 0, NULL);
    bool taken = dir ? g_dir_read_name(dir) != NULL : g_file_test(folder, G_FILE_TEST_EXISTS);
    if (dir) g_dir_close(dir);
    if (taken)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_EXIST,
                    "%s is there already, and nothing is written over: take another name", folder);
    return !taken;
}

static bool write_file(const char *folder, const char *name, unsigned i,
                       const struct new_options *options, GError **error)
{
    GString *to = g_string_new(files[i].to), *text;
    g_string_replace(to, "NAME", name, 0);
    char *path = g_build_filename(folder, to->str, NULL),
         *first = filled(files[i].from, name, NULL);
    text = g_string_new(first);
    for (unsigned k = 0; options->chip && files[i].more && k < G_N_ELEMENTS(chips); k++) {
        if (strcmp(chips[k].port, options->chip) != 0) continue;
        char *more = filled(files[i].more, name, &chips[k]);
        g_string_append(text, more);
        g_free(more);
    }
    bool ok = g_file_set_contents(path, text->str, (gssize)text->len, error) &&
              (!files[i].runs || g_chmod(path, 0755) == 0);
    g_string_free(text, TRUE);
    g_string_free(to, TRUE);
    g_free(first);
    g_free(path);
    return ok;
}

bool new_project(const char *folder, const struct new_options *options, GError **error)
{
    char *name = g_path_get_basename(folder);
    const char *wrong = new_why_not(name);
    bool ok = !wrong && is_free(folder, error);
    if (wrong)
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "'%s' can be no project's name: %s; take one like tank or pump_2", name, wrong);
    if (ok && g_mkdir_with_parents(folder, 0777) != 0) {
        ok = false;
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_FAILED, "%s: %s", folder, g_strerror(errno));
    }
    for (unsigned i = 0; ok && i < G_N_ELEMENTS(files); i++)
        if (options->make ? files[i].make : files[i].cmake)
            ok = write_file(folder, name, i, options, error);
    g_free(name);
    return ok;
}
