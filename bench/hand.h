/* What the hand-written parsers share: the same front end as the library's (rings with exact loss
 * marks, line ends, refused bytes, room before the act) and the same replies, by hand for one link.
 */
#ifndef HAND_H
#define HAND_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#ifdef __AVR__
#define ROM __flash
#define F(text)                            \
    (__extension__({                       \
        static const ROM char f_[] = text; \
        &f_[0];                            \
    }))
#else
#define ROM
#define F(text) text
#endif

enum { RX = 64, TX = 64, LINE = 32, REPLY = 48 };

typedef int (*handler_fn)(int16_t value);
#include "handlers.h"

/* Interrupt side, main side. */
void hand_feed(uint8_t byte);
bool hand_take(uint8_t *byte);
uint32_t hand_poll(void);
bool hand_idle(void);
void kick(void); /* the harness's */

/* The variant: obeys a line and writes its reply. */
void hand_exec(char *line);

/* For the variants. */
void put(char c);
void put_rom(const ROM char *text);
void put_word(const char *word); /* up to its blank or end */
void put_int(int16_t value);
/* Replaces the reply: err NAME, then a list, or a word, or "n low..high" (where both are NULL), and
 * where. */
void fail(const ROM char *name, const ROM char *list, const char *word, int16_t low, int16_t high,
          const char *at);
void unknown(const char *word); /* or somebody's reply, which is passed over */
char *skip(char *s);
/* What a handler said. */
void finish(int done);

/* The shared half of the table and the switch: the argument at s, its check, the call, the reply.
 */
void choice(const char *word, char *s, const ROM char (*words)[7], const ROM char *list,
            handler_fn fn);
void number(const char *word, char *s, int16_t low, int16_t high, handler_fn fn);
extern const ROM char switched[3][7], moved[3][7];
extern const ROM char switched_list[], moved_list[];

#endif
