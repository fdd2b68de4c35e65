/* Traces read into lanes, and written in each form; whatever stands in the file. */
#include "draw/timeline.h"

#include <glib/gstdio.h>
#include <jansson.h>
#include <stdio.h>
#include <string.h>

#include "harness.h"
#include "lines.h"

static const char first[] =
    "{\"t_us\":0,\"what\":\"begin\",\"lexicon\":\"tank\",\"links\":[{\"name\":\"bench\",\"medium\":"
    "\"serial\"}],"
    "\"outputs\":[{\"kind\":\"relay\",\"name\":\"pump\",\"wire\":\"\",\"of\":\"pin\",\"number\":4,"
    "\"active_low\":true},"
    "{\"kind\":\"motor\",\"name\":\"feeder\",\"wire\":\"\",\"of\":\"duty\",\"number\":6,"
    "\"direction\":24},"
    "{\"kind\":\"motor\",\"name\":\"mill\",\"wire\":\"\",\"of\":\"duty\",\"number\":7,\"back\":"
    "8,\"reversed\":false},"
    "{\"kind\":\"servo\",\"name\":\"weir\",\"wire\":\"\",\"of\":\"pulse\",\"number\":3},"
    "{\"kind\":\"stepper\",\"name\":\"slide\",\"wire\":\"\",\"of\":\"steps\",\"number\":9},"
    "{\"kind\":\"buzzer\",\"name\":\"bell\",\"wire\":\"\",\"of\":\"tone\",\"number\":5}],"
    "\"inputs\":[{\"kind\":\"input\",\"name\":\"call\",\"wire\":\"\",\"of\":\"pin\",\"number\":12,"
    "\"active_low\":true}]}\n";

static char *path(const char *name)
{
    static char *folder;
    if (!folder) folder = g_dir_make_tmp("rlx-timeline-XXXXXX", NULL);
    return g_build_filename(folder, name, NULL);
}

static struct timeline *read_text(const char *text, GError **error)
{
    char *file = path("t");
    CHECK(g_file_set_contents(file, text, -1, NULL));
    struct timeline *t = timeline_read(file, error);
    g_free(file);
    return t;
}

static struct timeline *read_tank(const char *lines)
{
    char *all = g_strconcat(first, lines, NULL);
    struct timeline *t = read_text(all, NULL);
    CHECK(t != NULL);
    g_free(all);
    return t;
}

static const struct lane *lane(const struct timeline *t, const char *name)
{
    for (unsigned i = 0; i < t->lanes->len; i++) {
        const struct lane *l = t->lanes->pdata[i];
        if (!strcmp(l->name, name)) return l;
    }
    CHECK_TEXT("no lane of that name", name);
    return NULL;
}

static double value(const struct timeline *t, const char *name, unsigned point)
{
    const struct lane *l = lane(t, name);
    if (!l || !CHECK(point < l->points->len)) return -99;
    return g_array_index(l->points, struct point, point).value;
}

static void switches(void)
{
    struct timeline *t =
        read_tank("{\"t_us\":10,\"what\":\"pin\",\"pin\":4,\"level\":1}\n"
                  "{\"t_us\":20,\"what\":\"pin\",\"pin\":4,\"level\":0}\n"
                  "{\"t_us\":30,\"what\":\"input\",\"pin\":12,\"level\":0}\n"
                  "{\"t_us\":40,\"what\":\"pin\",\"pin\":12,\"level\":1}\n"
                  "{\"t_us\":50,\"what\":\"pin\",\"pin\":4,\"level\":1,\"device\":\"two\"}\n");
    CHECK_TEXT(t->lexicon, "tank");
    CHECK_INT(value(t, "pump", 0), 0); /* active low */
    CHECK_INT(value(t, "pump", 1), 1);
    CHECK_INT(lane(t, "pump")->points->len, 2);
    CHECK_INT(value(t, "call", 0), 1);
    CHECK_INT(lane(t, "call")->points->len, 1);
    CHECK(lane(t, "call")->input && !lane(t, "pump")->input);
    CHECK_INT(t->end_us, 50);
    timeline_free(t);
}

static void motors(void)
{
    struct timeline *t = read_tank("{\"t_us\":10,\"what\":\"duty\",\"channel\":6,\"duty\":65535}\n"
                                   "{\"t_us\":20,\"what\":\"duty\",\"channel\":6,\"duty\":0}\n"
                                   "{\"t_us\":20,\"what\":\"pin\",\"pin\":24,\"level\":1}\n"
                                   "{\"t_us\":30,\"what\":\"duty\",\"channel\":6,\"duty\":65535}\n"
                                   "{\"t_us\":40,\"what\":\"duty\",\"channel\":7,\"duty\":65535}\n"
                                   "{\"t_us\":50,\"what\":\"duty\",\"channel\":7,\"duty\":0}\n"
                                   "{\"t_us\":50,\"what\":\"duty\",\"channel\":8,\"duty\":65535}\n"
                                   "{\"t_us\":60,\"what\":\"pulse\",\"channel\":3,\"us\":1500}\n"
                                   "{\"t_us\":60,\"what\":\"steps\",\"channel\":9,\"hz\":800,"
                                   "\"count\":40}\n"
                                   "{\"t_us\":60,\"what\":\"tone\",\"channel\":5,\"hz\":440}\n");
    CHECK_INT(value(t, "feeder", 0), 1);
    CHECK_INT(value(t, "feeder", 1), 0);
    CHECK_INT(value(t, "feeder", 2), -1);
    CHECK_INT(lane(t, "feeder")->low, -1);
    CHECK_INT(value(t, "mill", 0), 1);
    CHECK_INT(value(t, "mill", 2), -1);
    CHECK_INT(value(t, "weir", 0), 1500);
    CHECK_TEXT(g_array_index(lane(t, "weir")->points, struct point, 0).text, "1500 us");
    CHECK_INT(value(t, "slide", 0), 800);
    CHECK_TEXT(g_array_index(lane(t, "slide")->points, struct point, 0).text, "800 Hz");
    CHECK_TEXT(g_array_index(lane(t, "bell")->points, struct point, 0).text, "440 Hz");
    timeline_free(t);
}

static void frames(void)
{
    static const struct {
        const char *what;
        enum point_mark mark;
    } rows[] = {
        {"said", POINT_SAID},        {"answered", POINT_ANSWERED}, {"sent", POINT_SAID},
        {"lost", POINT_LOST},        {"collided", POINT_LOST},     {"damaged", POINT_DAMAGED},
        {"duplicated", POINT_TWICE}, {"delayed", POINT_LATE},      {"dropped", POINT_LOST}};
    GString *lines = g_string_new(NULL);
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++)
        g_string_append_printf(
            lines, "{\"t_us\":%u,\"what\":\"%s\",\"name\":\"bench\",\"text\":\"t%u\"}\n", i,
            rows[i].what, i);
    /* a device's answer on the air is sent as well: once is enough */
    g_string_append(lines,
                    "{\"t_us\":90,\"what\":\"answered\",\"name\":\"bench\",\"text\":\"a\"}\n"
                    "{\"t_us\":90,\"what\":\"sent\",\"name\":\"bench\",\"text\":\"a\"}\n"
                    "{\"t_us\":95,\"what\":\"load\",\"name\":\"gate\",\"text\":\"jammed\"}\n"
                    "{\"t_us\":96,\"what\":\"unknown\",\"name\":\"shore\",\"text\":\"pump on\"}\n");
    struct timeline *t = read_tank(lines->str);
    const struct lane *bench = lane(t, "bench");
    CHECK_INT(bench->points->len, G_N_ELEMENTS(rows) + 1);
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++) {
        const struct point *point = &g_array_index(bench->points, struct point, i);
        test_context("%s", rows[i].what);
        CHECK_INT(point->mark, rows[i].mark);
        CHECK_INT(point->us, i);
    }
    test_context("%s", "");
    CHECK_INT(lane(t, "gate")->kind, LANE_NOTES);
    CHECK_INT(g_array_index(lane(t, "shore")->points, struct point, 0).mark, POINT_LOST);
    timeline_free(t);
    g_string_free(lines, TRUE);
}

static void forms(void)
{
    struct timeline *t = read_tank(
        "{\"t_us\":10,\"what\":\"pin\",\"pin\":4,\"level\":0}\n"
        "{\"t_us\":1500000,\"what\":\"said\",\"name\":\"bench\",\"text\":\"a \\\"b\\\"\"}\n"
        "{\"t_us\":2000000,\"what\":\"duty\",\"channel\":6,\"duty\":32768}\n");
    char *text = timeline_text(t, 0, UINT64_MAX), *csv = timeline_csv(t, 1000000, 1600000),
         *vcd = timeline_vcd(t, 0, 1999999);
    CHECK_TEXT(text, "   0.000010 s  pin        pump           on\n"
                     "   1.500000 s  said       bench          a \"b\"\n"
                     "   2.000000 s  duty       feeder         50 %\n");
    CHECK_TEXT(csv, "t_us,what,name,value\r\n1500000,\"said\",\"bench\",\"a \"\"b\"\"\"\r\n");
    CHECK(strstr(vcd, "$timescale 1 us $end\n$scope module tank $end\n") != NULL);
    CHECK(strstr(vcd, " pump $end\n") && strstr(vcd, "#10\n0") && !strstr(vcd, "#2000000"));
    g_free(text), g_free(csv), g_free(vcd);
    timeline_free(t);
}

/* The pictures are there, and SVG is a text that can be looked into. */
static void pictures(void)
{
    struct timeline *t = read_tank(
        "{\"t_us\":10,\"what\":\"pin\",\"pin\":4,\"level\":0}\n"
        "{\"t_us\":1500000,\"what\":\"said\",\"name\":\"bench\",\"text\":\"pump off\"}\n"
        "{\"t_us\":1600000,\"what\":\"lost\",\"name\":\"bench\",\"text\":\"\\u00e4\\u0001\"}\n"
        "{\"t_us\":2000000,\"what\":\"duty\",\"channel\":6,\"duty\":32768}\n");
    char *png = path("t.png"), *svg = path("t.svg"), *bytes;
    gsize size;
    static const uint64_t parts[][2] = {
        {0, 2000000}, {0, 1}, {1500000, 1500000}, {5, 100000000000000}};
    for (unsigned i = 0; i < G_N_ELEMENTS(parts); i++) {
        test_context("part %u", i);
        CHECK(timeline_picture(t, png, false, parts[i][0], parts[i][1], NULL));
        CHECK(timeline_picture(t, svg, true, parts[i][0], parts[i][1], NULL));
        CHECK(g_file_get_contents(png, &bytes, &size, NULL) && size > 1000 &&
              !memcmp(bytes, "\x89PNG", 4));
        g_free(bytes);
        CHECK(g_file_get_contents(svg, &bytes, &size, NULL) && strstr(bytes, "<svg") &&
              strstr(bytes, "1280"));
        g_free(bytes);
    }
    test_context("%s", "");
    GError *error = NULL;
    CHECK(!timeline_picture(t, "/nowhere/t.png", false, 0, 10, &error));
    CHECK(error != NULL);
    g_clear_error(&error);
    CHECK(!timeline_picture(t, "/nowhere/t.svg", true, 0, 10, &error));
    CHECK(error != NULL);
    g_clear_error(&error);
    g_free(png), g_free(svg);
    timeline_free(t);
}

static void none(void)
{
    static const struct {
        const char *text, *told;
    } rows[] = {{"", "nothing happens"},
                {"\n\n", "nothing happens"},
                {"hello\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":\"said\",\"text\":\"a\"}\n{\n", "line 2: expected"},
                {"{\"what\":\"said\"}\n", "line 1: expected"},
                {"{\"t_us\":1.5,\"what\":\"said\"}\n", "line 1: expected"},
                {"{\"t_us\":-1,\"what\":\"said\"}\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":7}\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":\"pin\",\"pin\":256,\"level\":1}\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":\"pin\",\"pin\":-1,\"level\":1}\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":\"pin\",\"pin\":1}\n", "line 1: expected"},
                {"[1,2]\n", "line 1: expected"},
                {"{\"t_us\":1,\"what\":\"some day\"}\n", "nothing happens"}};
    for (unsigned i = 0; i < G_N_ELEMENTS(rows); i++) {
        GError *error = NULL;
        test_context("%s", rows[i].text);
        struct timeline *t = read_text(rows[i].text, &error);
        CHECK(!t);
        if (CHECK(error != NULL)) CHECK(strstr(error->message, rows[i].told) != NULL);
        g_clear_error(&error);
        timeline_free(t);
    }
    test_context("%s", "");
}

/* Lines that are changed at random: read or refused, and drawn where they are read. */
static void any_bytes(void)
{
    static const char *const some[] = {
        "{\"t_us\":10,\"what\":\"pin\",\"pin\":4,\"level\":0}\n",
        "{\"t_us\":99999999999,\"what\":\"said\",\"name\":\"bench\",\"text\":\"x\"}\n",
        "{\"t_us\":5,\"what\":\"duty\",\"channel\":6,\"duty\":32768}\n",
        "{\"t_us\":7,\"what\":\"lost\",\"name\":\"\",\"text\":\"\\u0001\"}\n"};
    char *svg = path("any.svg");
    unsigned read = 0;
    for (unsigned i = 0; i < 300 * test_rounds(); i++) {
        GString *text = g_string_new(lines_chance(4) ? first : "");
        for (unsigned k = 0; k < 6; k++) g_string_append(text, some[lines_chance(4)]);
        for (unsigned k = lines_chance(3); k; k--)
            text->str[lines_chance((unsigned)text->len)] = (char)(1 + lines_chance(255));
        struct timeline *t = read_text(text->str, NULL);
        if (t) {
            read++;
            CHECK(timeline_picture(t, svg, true, 0, t->end_us + 1, NULL));
            g_free(timeline_vcd(t, 0, UINT64_MAX));
            g_free(timeline_csv(t, 0, UINT64_MAX));
            g_free(timeline_text(t, 0, UINT64_MAX));
        }
        timeline_free(t);
        g_string_free(text, TRUE);
    }
    CHECK(read > 60);
    g_free(svg);
}

static const struct test_case cases[] = {
    {"switches", switches}, {"motors", motors}, {"frames", frames},       {"forms", forms},
    {"pictures", pictures}, {"none", none},     {"any bytes", any_bytes},
};
TEST_MAIN(cases)
