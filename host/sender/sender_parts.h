/* What the files of the sender share. */
#ifndef SENDER_PARTS_H
#define SENDER_PARTS_H

#include "lexicon/model.h"
#include "lexicon/write/table_image.h"

enum request_kind {
    REQUEST_COMMAND, /* a command, with its slots */
    REQUEST_QUERY,   /* NAME?, perhaps with slots, answered with slots */
    REQUEST_SETTING, /* NAME?, answered with one */
    REQUEST_STATE,   /* NAME?, answered with what the output is at */
    REQUEST_BUILT_IN /* a built-in word, or `help` and the like */
};

/* Something that can be asked of the device over the link. */
struct request {
    enum request_kind kind;
    char *name;   /* in C, in small letters: glow, beacon_flash */
    char *member; /* of what is heard: the same, or with a _ where that is a word of C */
    char *text;   /* as the lexicon has it, for comments */
    const char *word, *title;
    const struct lex_command *command; /* of COMMAND */
    const struct lex_command *asked;   /* of QUERY */
    const GPtrArray *slots; /* struct lex_element *: what is sent, of COMMAND words among them, and
                               then what the answer has besides */
    unsigned sent;          /* so many of them are sent */
    bool newest;
};

struct sender {
    const struct lexicon *lx;
    const struct image *image;
    const struct lex_link *link;
    char *prefix, *upper;                 /* nursery_skiff, NURSERY_SKIFF */
    char *handset_prefix, *handset_upper; /* nursery_deck, NURSERY_DECK; NULL: no handset */
    GPtrArray *requests;                  /* struct request * */
    GPtrArray *own;                       /* GPtrArray *: slots of requests, freed at the end */
    GHashTable *names;                    /* C names that are taken, in capitals */
    unsigned longest;                     /* bytes of a command, with all of its slots */
};

/* requests.c: lists what can be asked over the link. */
void sender_begin(struct sender *s, const struct lexicon *lx, const struct image *image,
                  const struct lex_link *link);
void sender_end(struct sender *s);
/* A name in capitals that nothing else has: begins with `prefix`. Owned by the caller. */
char *sender_constant(struct sender *s, const char *between, const char *word);
/* The keys or codes and what they say: "key\0text\0..." as a C text, or NULL. Owned by the caller.
 */
char *sender_keys(const struct sender *s);
/* Each key or code that is known, and what it says. */
void sender_each_key(const struct sender *s,
                     void (*each)(void *user, const char *code, const char *text), void *user);
/* What a handset sends, as the sender writes it: of a key or a code the text for which it stands.
 * Owned by the caller. */
char *sender_text(const struct sender *s, const char *said);
/* Whether a device answers on this link. */
bool sender_is_answered(const struct lex_link *link);
/* Whether the event is sent over the link. */
bool sender_has_event(const struct sender *s, const struct lex_event *event);

/* times.c: how often a command is sent, and the pause before the second try; each further one is
 * longer by as much. All are at most half of the window. */
bool sender_repeats(const struct lex_link *link); /* the device obeys it once */
unsigned sender_tries(const struct lex_link *link);
unsigned sender_pause_ms(const struct lex_link *link);

/* slots.c: C for one slot. */
/* The name of the member or argument. Owned by the caller. */
char *sender_slot_name(const GPtrArray *slots, const struct lex_element *e);
/* The enum type of a choice or set: nursery_skiff_gate_choice. Owned by the caller. */
char *sender_enum_name(const struct sender *s, const struct request *r,
                       const struct lex_element *e);
/* Its enum, for the header. */
void sender_put_enum(struct sender *s, GString *out, const struct request *r,
                     const struct lex_element *e);
/* "uint8_t level": as argument; NULL: a word. Owned by the caller. */
char *sender_argument(const struct sender *s, const struct request *r, const struct lex_element *e);
/* The lines of its member. */
void sender_put_member(const struct sender *s, GString *out, const struct request *r,
                       const struct lex_element *e);
/* The statements that write it. */
void sender_put_say(GString *out, const struct request *r, const struct lex_element *e);
/* The same of a variable or member of this name. */
void sender_put_value(GString *out, const struct lex_element *e, const char *name);
/* Of a number: the condition that reads it into this variable. */
void sender_put_take(GString *out, const struct lex_element *e, const char *to);
/* The statements that read it: `return false;` where it is something else; `behind`: what stands
 * behind it in an answer of the lexicon's own, or 0; -1: an answer as the device has it. */
void sender_put_hear(const struct sender *s, GString *out, const struct request *r,
                     const struct lex_element *e, int behind);
/* A text as a C text without its quotes. Owned by the caller. */
char *sender_literal(const char *text);

/* sender.c: bytes of a frame that is put together of a stream; 0: frames come whole. */
unsigned sender_frame_bytes(const struct lex_link *link);
/* Bytes of the longest command that it takes. */
unsigned sender_command_bytes(const struct sender *s);
/* header.c, source.c. Owned by the caller. */
/* ", uint8_t source, uint16_t start": what init has behind the struct, and what a handset gives it.
 */
char *sender_init_arguments(const struct sender *s);
char *sender_init_given(const struct sender *s);
char *sender_header(struct sender *s, const char *client);
char *sender_defines(struct sender *s);
void sender_put_readers(struct sender *s, GString *out);
void sender_put_functions(struct sender *s, GString *out);
/* bytes.c: of frames by a layout, texts to bytes and back. */
void sender_put_rows(const struct sender *s, GString *out);
/* The texts of a slider's steps, as the sender writes them. Owned by the caller. */
GPtrArray *handset_steps(const struct sender *s, const struct lex_slider *slider);
/* handset.c: the header, and what is particular in the source. */
char *handset_header(struct sender *s, const struct lex_handset *handset);
void handset_put_source(struct sender *s, GString *out, const struct lex_handset *handset);
unsigned handset_button_count(const struct lex_handset *handset);
/* Bytes of the longest text that a handset sends over the link. */
unsigned handset_longest(const struct sender *s);
/* The prototype of a request's function, without its ';'. */
void sender_put_prototype(struct sender *s, GString *out, const struct request *r);

#endif
