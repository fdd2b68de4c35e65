/* The kinds of outputs. A new one is a row in each list here, its rows in verbs.h, and its files:
 * docs/architecture.md lists them. */
#ifndef RLX_DEF_OUTPUTS_H
#define RLX_DEF_OUTPUTS_H

/* Drives: how the library moves an output. One row each: its id; whether a build has it; the name
 * of its file, its functions and its state; whether it changes by itself; and whether it is
 * switched on and off. An output of none of them is RLX_DRIVE_STEADY: it has a level of 0..65535
 * (src/drive/steady.c). */
#define RLX_DRIVES(X)                              \
    X(REVERSER, RLX_HAS_REVERSERS, reverser, 1, 0) \
    X(MOTOR, RLX_HAS_MOTORS, motor, 1, 0)          \
    X(SERVO, RLX_HAS_SERVOS, servo, 1, 0)          \
    X(GROUP, RLX_HAS_GROUPS, group, 0, 1)          \
    X(STEPPER, RLX_HAS_STEPPERS, stepper, 1, 0)

enum rlx_drive {
    RLX_DRIVE_STEADY,
#define RLX_DRIVE_ENUM(id, has, name, moves, switched) RLX_DRIVE_##id,
    RLX_DRIVES(RLX_DRIVE_ENUM)
#undef RLX_DRIVE_ENUM
};

/* What stands in the brackets, where a build has it: `has` is 0 or 1. */
#define RLX_WHEN(has, ...)  RLX_WHEN_(has, __VA_ARGS__)
#define RLX_WHEN_(has, ...) RLX_WHEN_##has(__VA_ARGS__)
#define RLX_WHEN_0(...)
#define RLX_WHEN_1(...) __VA_ARGS__

/* The kinds that a lexicon names. One row each: its id, its word (and the name of its file in
 * host/kinds), and its drive. */
#define RLX_OUTPUT_KINDS(X)         \
    X(RELAY, relay, STEADY)         \
    X(LED, led, STEADY)             \
    X(BUZZER, buzzer, STEADY)       \
    X(MOTOR, motor, MOTOR)          \
    X(REVERSER, reverser, REVERSER) \
    X(PAIR, pair, MOTOR)            \
    X(SERVO, servo, SERVO)          \
    X(GROUP, group, GROUP)          \
    X(STEPPER, stepper, STEPPER)

enum {
#define RLX_KIND_ENUM(id, word, drive) RLX_KIND_##id,
    RLX_OUTPUT_KINDS(RLX_KIND_ENUM) RLX_N_KINDS
#undef RLX_KIND_ENUM
};

#endif
