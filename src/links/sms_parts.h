/* What the files of the driver share: sms.c goes from step to step, sms_hears.c reads what the
 * modem sends, sms_message.c has the message in hand. */
#ifndef SMS_PARTS_H
#define SMS_PARTS_H

#include "rlx/sms.h"

#include "../core/core.h"

#if RLX_HAS_SMS

enum step {
    STEP_HELLO,  /* from here on the modem is started */
    STEP_SETTLE, /* its answers to what was before are ignored */
    STEP_ERRORS,
    STEP_PIN,
    STEP_MODE,
    STEP_STORE,
    STEP_NOTICES,
    STEP_ZONE,
    STEP_REGISTERED,
    STEP_COUNT, /* from here on it is at work */
    STEP_CLOCK,
    STEP_READ,
    STEP_KEEP, /* the record is being written */
    STEP_ACT,
    STEP_SEND,
    STEP_TEXT,
    STEP_DELETE,
    STEP_IDLE,
    STEP_PAUSE
};

enum result { RESULT_NONE, RESULT_OK, RESULT_ERROR, RESULT_SILENT, RESULT_PROMPT };

#define ANSWER_MS    UINT32_C(10000) /* a modem answers within this... */
#define HELLO_MS     UINT32_C(1000)
#define SETTLE_MS    UINT32_C(500)
#define SEND_MS      UINT32_C(90000) /* ...but takes its time to send */
#define LOOK_MS      UINT32_C(60000) /* it is looked at without a notice */
#define SEARCH_MS    UINT32_C(10000) /* no network: it is asked again */
#define PAUSE_MS     UINT32_C(1000)  /* the first pause; they double */
#define PAUSE_DOUBLE 6u
#define TRIES        3u
#define READS        4u
#define SENDS        4u
#define CLOCK_MS     UINT32_C(60000) /* so long a clock's time is good */
#define NO_PLACE     321u            /* 27.005, 3.2.5: invalid memory index */
#define YEAR_2020    UINT32_C(631152000)

#define PENDING_BEGUN 'I'
#define PENDING_DONE  'D'
/* In the place of a number's highest four bits: nobody knew the code yet. */
#define RLX_SMS_NOBODY ('#' + 63)

static inline void rlx_sms_count(uint16_t *counter)
{
    if (*counter != UINT16_MAX) ++*counter;
}

static inline rlx_rom rlx_sms_row(const struct rlx_device *d, rlx_rom row)
{
    return rlx_image(d) + rlx_more16(rlx_more(d, row), RLX_MORE_SMS);
}

/* sms_hears.c: takes what came, up to what the modem answers. */
RLX_INTERNAL void rlx_sms_hear(const struct rlx_device *device, struct rlx_link *link);

/* sms_message.c: number n, from 1, of those who are served; false: there are not so many. */
RLX_INTERNAL bool rlx_sms_served(const struct rlx_device *device, rlx_rom row, uint8_t n,
                                 uint8_t address[RLX_PDU_ADDRESS]);
/* A message was read: what is done with it. */
RLX_INTERNAL void rlx_sms_judge(struct rlx_device *device, struct rlx_link *link, rlx_rom row);
/* The parser has it, and answers. */
RLX_INTERNAL void rlx_sms_act(struct rlx_device *device, struct rlx_link *link, rlx_rom row);
/* It was sent, or there was nothing to send: the place of its message is emptied. */
RLX_INTERNAL void rlx_sms_answered(struct rlx_link *link);
/* It is gone: the next one. */
RLX_INTERNAL void rlx_sms_forget(struct rlx_link *link);
RLX_INTERNAL bool rlx_sms_is_kept(const struct rlx_device *device, rlx_rom row);
/* Whether there is a record; makes one. */
RLX_INTERNAL bool rlx_sms_has_record(const struct rlx_device *device, rlx_rom row);
RLX_INTERNAL void rlx_sms_have_record(const struct rlx_device *device, rlx_rom row);
#if RLX_HAS_SMS_CODE
/* sms_code.c: takes the code off the message in hand; false: it is wrong, or not looked at. */
RLX_INTERNAL bool rlx_sms_takes_code(struct rlx_device *device, struct rlx_link *link, rlx_rom row,
                                     uint8_t setting);
RLX_INTERNAL void rlx_sms_load_guesses(const struct rlx_device *device, struct rlx_sms *sms,
                                       rlx_rom row);
RLX_INTERNAL void rlx_sms_run_guesses(const struct rlx_device *device, struct rlx_sms *sms);
#endif
/* The setting that is the record. */
RLX_INTERNAL uint8_t rlx_sms_record_of(const struct rlx_device *device, rlx_rom row);

#endif
#endif
