/* The image in the making: what image.c, image_pins.c and image_links.c (tables), program.c
 * (shapes) and root.c (first words) share. */
#ifndef BUILD_H
#define BUILD_H

#include "lexicon/write/graph.h"
#include "lexicon/write/table_image.h"
#include "rlx/config.h"
#include "rlx/image.h"

struct build {
    struct lexicon *lx;
    struct image *image;
    struct node *root;
    bool many;           /* 16-bit shapes and operands */
    bool by_group;       /* a handler's index is its word's hash group */
    GHashTable *shapes;  /* GBytes: program -> shape number + 1 */
    GArray *shape_at;    /* uint16_t: offsets */
    GHashTable *handler; /* name -> index + 1 */
    GHashTable *says;    /* command and its given slots -> where its own answer stands */
    GHashTable *guards;  /* command -> where what it waits for stands */
};

/* image.c: bytes, little-endian. */
void build_put8(GByteArray *to, unsigned value);
void build_put16(GByteArray *to, unsigned value);
void build_put32(GByteArray *to, uint32_t value);
void build_set16(GByteArray *to, unsigned at, unsigned value);
void build_put_text(GByteArray *to, const char *text);
/* Tables of 16-bit numbers stand at even offsets. */
void build_align(GByteArray *to);
void build_put_all(GByteArray *to, const GByteArray *from);
/* A new row of the listing begins here. */
void build_row(struct build *b, const char *format, ...) G_GNUC_PRINTF(2, 3);
/* The image needs this feature: RLX_BIT_... */
void build_need(struct build *b, unsigned bit);
/* The number of the setting with this name. */
unsigned build_setting(const struct build *b, const char *name);

/* image_links.c: whether a link sends errors with their names. */
bool build_names_errors(const struct build *b);

/* A list with its length before it; returns where the length stands. */
unsigned build_begin_list(GByteArray *to);
void build_end_list(GByteArray *to, unsigned at);

/* image_pins.c, image_links.c: parts of the image, and where they stand into its header. */
void build_put_outputs(struct build *b);
void build_put_inputs(struct build *b);
void build_put_permits(struct build *b);
/* The number of the input; RLX_EVT_NONE: there is none of this name. */
unsigned build_input(const struct lexicon *lx, const char *name);
void build_put_patterns(struct build *b);
void build_put_events(struct build *b);
void build_put_links(struct build *b);
/* image_layout.c: the layout of a link, in the place of keys. */
void build_put_layout(struct build *b, const struct lex_link *link);
/* The number of what "ev call pressed" stands for, from RLX_OWN_EVENT on; -1: nothing. */
int build_own_event(const struct lexicon *lx, const char *what);
/* image_says.c: the commands' own answers, and where that of a command with so many slots given
 * stands. */
void build_put_says(struct build *b);
/* image_guards.c: what commands wait for, and what of it stands in their programs. */
void build_put_guards(struct build *b);
void build_put_guarded(struct build *b, GByteArray *to, const struct lex_command *command);
unsigned build_says(const struct build *b, const struct lex_command *command, unsigned given);
/* image_routines.c */
void build_put_acts(struct build *b);
void build_put_routines(struct build *b);
/* image_settings.c */
void build_put_settings(struct build *b);

/* program.c */
/* "uint8_t,enum x": the C types of a command's slots. Owned by the caller. */
char *build_signature(const struct lexicon *lx, const struct lex_command *command);
/* What the command does, with so many of its slots given; `values`: their values, NULL: they are
 * read before it. operand: RLX_OPERAND_... */
void build_put_end(struct build *b, GByteArray *to, const struct lex_command *command,
                   unsigned given, const int32_t *values, unsigned operand);
/* The handler's, output's or routine's number. */
unsigned build_operand(struct build *b, const struct lex_command *command);
/* One command that ends at the node or below. */
const struct lex_command *build_some_end(const struct node *node);
/* The program from a node on; `operand` is RLX_OPERAND_... Owned by the caller. */
GByteArray *build_program(struct build *b, const struct node *node, unsigned operand);
void build_put_rest(struct build *b, GByteArray *to, const struct node *node, unsigned operand);
void build_put_number(struct build *b, GByteArray *to, const struct lex_element *e);
unsigned build_put_numbers(struct build *b, GByteArray *to, const struct node *node,
                           unsigned operand);
/* The number of the shape with this program, which becomes one when it is new. Frees `bytes`. */
unsigned build_shape(struct build *b, GByteArray *bytes, const struct node *node);
void build_put_shape(struct build *b, GByteArray *to, unsigned shape);

/* root.c: the element that every command begins with. False after a fault. */
bool build_put_root(struct build *b);

#endif
