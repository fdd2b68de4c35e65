/* Made by packaging/make-defaults from the lists in this folder; change those, not this file.
 * RLX_CONFIG_HASH is one number for all of a configuration, and RLX_CONFIGURED(name) the name with
 * that number in hexadecimal behind it: a library and a firmware that were not compiled with the
 * same configuration do not link. */
#define RLX_HASH_0      ((RLX_VERSION)*0x9E3779B1u)
#define RLX_HASH_1      ((RLX_HASH_0 + (RLX_HAS_ANY_CASE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_2      ((RLX_HASH_1 + (RLX_HAS_SHORTEN)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_3      ((RLX_HASH_2 + (RLX_HAS_HASH)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_4      ((RLX_HASH_3 + (RLX_HAS_FAMILY)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_5      ((RLX_HASH_4 + (RLX_HAS_CHOICE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_6      ((RLX_HASH_5 + (RLX_HAS_NUMBER)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_7      ((RLX_HASH_6 + (RLX_HAS_WIDE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_8      ((RLX_HASH_7 + (RLX_HAS_UNIT)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_9      ((RLX_HASH_8 + (RLX_HAS_MANY)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_10     ((RLX_HASH_9 + (RLX_HAS_CALL)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_11     ((RLX_HASH_10 + (RLX_HAS_SWITCH)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_12     ((RLX_HASH_11 + (RLX_HAS_LEVEL)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_13     ((RLX_HASH_12 + (RLX_HAS_LINE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_14     ((RLX_HASH_13 + (RLX_HAS_KEYS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_15     ((RLX_HASH_14 + (RLX_HAS_GREETING)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_16     ((RLX_HASH_15 + (RLX_HAS_LONG_REPLY)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_17     ((RLX_HASH_16 + (RLX_HAS_FORM)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_18     ((RLX_HASH_17 + (RLX_HAS_SET)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_19     ((RLX_HASH_18 + (RLX_HAS_LIST)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_20     ((RLX_HASH_19 + (RLX_HAS_TEXT)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_21     ((RLX_HASH_20 + (RLX_HAS_GLUE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_22     ((RLX_HASH_21 + (RLX_HAS_NUMBERED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_23     ((RLX_HASH_22 + (RLX_HAS_CODES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_24     ((RLX_HASH_23 + (RLX_HAS_MARKED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_25     ((RLX_HASH_24 + (RLX_HAS_TIMED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_26     ((RLX_HASH_25 + (RLX_HAS_PACKET)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_27     ((RLX_HASH_26 + (RLX_HAS_CHECK)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_28     ((RLX_HASH_27 + (RLX_HAS_ADDRESS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_29     ((RLX_HASH_28 + (RLX_HAS_TAGS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_30     ((RLX_HASH_29 + (RLX_HAS_OWN)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_31     ((RLX_HASH_30 + (RLX_HAS_LIMITED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_32     ((RLX_HASH_31 + (RLX_HAS_EXPIRY)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_33     ((RLX_HASH_32 + (RLX_HAS_QUERY)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_34     ((RLX_HASH_33 + (RLX_HAS_EVENTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_35     ((RLX_HASH_34 + (RLX_HAS_PACED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_36     ((RLX_HASH_35 + (RLX_HAS_PEOPLE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_37     ((RLX_HASH_36 + (RLX_HAS_REPORT)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_38     ((RLX_HASH_37 + (RLX_HAS_MESSAGE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_39     ((RLX_HASH_38 + (RLX_HAS_NEWEST)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_40     ((RLX_HASH_39 + (RLX_HAS_DROP)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_41     ((RLX_HASH_40 + (RLX_HAS_YIELDS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_42     ((RLX_HASH_41 + (RLX_HAS_INPUTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_43     ((RLX_HASH_42 + (RLX_HAS_ACTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_44     ((RLX_HASH_43 + (RLX_HAS_CURVE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_45     ((RLX_HASH_44 + (RLX_HAS_RESTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_46     ((RLX_HASH_45 + (RLX_HAS_TONE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_47     ((RLX_HASH_46 + (RLX_HAS_REVERSERS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_48     ((RLX_HASH_47 + (RLX_HAS_MOTORS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_49     ((RLX_HASH_48 + (RLX_HAS_SERVOS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_50     ((RLX_HASH_49 + (RLX_HAS_GROUPS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_51     ((RLX_HASH_50 + (RLX_HAS_ROUTINES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_52     ((RLX_HASH_51 + (RLX_HAS_PRESENCE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_53     ((RLX_HASH_52 + (RLX_HAS_PATTERNS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_54     ((RLX_HASH_53 + (RLX_HAS_COUNTED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_55     ((RLX_HASH_54 + (RLX_HAS_PLACES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_56     ((RLX_HASH_55 + (RLX_HAS_SETTINGS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_57     ((RLX_HASH_56 + (RLX_HAS_SMS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_58     ((RLX_HASH_57 + (RLX_HAS_STEPPERS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_59     ((RLX_HASH_58 + (RLX_HAS_WORDS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_60     ((RLX_HASH_59 + (RLX_HAS_ERRORS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_61     ((RLX_HASH_60 + (RLX_HAS_SAYS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_62     ((RLX_HASH_61 + (RLX_HAS_INPUT_ACTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_63     ((RLX_HASH_62 + (RLX_HAS_REASONS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_64     ((RLX_HASH_63 + (RLX_HAS_PERMITS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_65     ((RLX_HASH_64 + (RLX_HAS_OUTPUT_EVENTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_66     ((RLX_HASH_65 + (RLX_HAS_ANSWERS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_67     ((RLX_HASH_66 + (RLX_HAS_GREETS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_68     ((RLX_HASH_67 + (RLX_HAS_LINE_ENDS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_69     ((RLX_HASH_68 + (RLX_HAS_FIELDS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_70     ((RLX_HASH_69 + (RLX_HAS_LOOPS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_71     ((RLX_HASH_70 + (RLX_HAS_SHOWS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_72     ((RLX_HASH_71 + (RLX_HAS_SET_TIMES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_73     ((RLX_HASH_72 + (RLX_HAS_BOUNDS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_74     ((RLX_HASH_73 + (RLX_HAS_SET_RAMPS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_75     ((RLX_HASH_74 + (RLX_HAS_SET_DEBOUNCE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_76     ((RLX_HASH_75 + (RLX_HAS_HANG_UP)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_77     ((RLX_HASH_76 + (RLX_HAS_KEPT)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_78     ((RLX_HASH_77 + (RLX_BUILT_IN)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_79     ((RLX_HASH_78 + (RLX_SLOTS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_80     ((RLX_HASH_79 + (RLX_LINKS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_81     ((RLX_HASH_80 + (RLX_POLL_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_82     ((RLX_HASH_81 + (RLX_KEPT_REPLY_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_83     ((RLX_HASH_82 + (RLX_AHEAD_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_84     ((RLX_HASH_83 + (RLX_HEARD_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_85     ((RLX_HASH_84 + (RLX_LOG_ENTRIES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_86     ((RLX_HASH_85 + (RLX_LOG_CHARACTERS)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_87     ((RLX_HASH_86 + (RLX_NOTE_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_88     ((RLX_HASH_87 + (RLX_SAYS_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_89     ((RLX_HASH_88 + (RLX_NV_AREA_BYTES)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_90     ((RLX_HASH_89 + (RLX_FIRMWARE_SAFE)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_HASH_91     ((RLX_HASH_90 + (RLX_FIXED)) * 0x01000193u & 0xFFFFFFFFu)
#define RLX_CONFIG_HASH (RLX_HASH_91 ^ RLX_HASH_91 >> 16)

#if (RLX_CONFIG_HASH >> 20 & 15) == 0x0
#define RLX_HASH_DIGIT_5 0
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x1
#define RLX_HASH_DIGIT_5 1
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x2
#define RLX_HASH_DIGIT_5 2
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x3
#define RLX_HASH_DIGIT_5 3
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x4
#define RLX_HASH_DIGIT_5 4
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x5
#define RLX_HASH_DIGIT_5 5
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x6
#define RLX_HASH_DIGIT_5 6
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x7
#define RLX_HASH_DIGIT_5 7
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x8
#define RLX_HASH_DIGIT_5 8
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0x9
#define RLX_HASH_DIGIT_5 9
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xA
#define RLX_HASH_DIGIT_5 A
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xB
#define RLX_HASH_DIGIT_5 B
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xC
#define RLX_HASH_DIGIT_5 C
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xD
#define RLX_HASH_DIGIT_5 D
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xE
#define RLX_HASH_DIGIT_5 E
#elif (RLX_CONFIG_HASH >> 20 & 15) == 0xF
#define RLX_HASH_DIGIT_5 F
#endif

#if (RLX_CONFIG_HASH >> 16 & 15) == 0x0
#define RLX_HASH_DIGIT_4 0
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x1
#define RLX_HASH_DIGIT_4 1
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x2
#define RLX_HASH_DIGIT_4 2
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x3
#define RLX_HASH_DIGIT_4 3
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x4
#define RLX_HASH_DIGIT_4 4
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x5
#define RLX_HASH_DIGIT_4 5
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x6
#define RLX_HASH_DIGIT_4 6
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x7
#define RLX_HASH_DIGIT_4 7
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x8
#define RLX_HASH_DIGIT_4 8
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0x9
#define RLX_HASH_DIGIT_4 9
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xA
#define RLX_HASH_DIGIT_4 A
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xB
#define RLX_HASH_DIGIT_4 B
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xC
#define RLX_HASH_DIGIT_4 C
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xD
#define RLX_HASH_DIGIT_4 D
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xE
#define RLX_HASH_DIGIT_4 E
#elif (RLX_CONFIG_HASH >> 16 & 15) == 0xF
#define RLX_HASH_DIGIT_4 F
#endif

#if (RLX_CONFIG_HASH >> 12 & 15) == 0x0
#define RLX_HASH_DIGIT_3 0
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x1
#define RLX_HASH_DIGIT_3 1
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x2
#define RLX_HASH_DIGIT_3 2
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x3
#define RLX_HASH_DIGIT_3 3
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x4
#define RLX_HASH_DIGIT_3 4
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x5
#define RLX_HASH_DIGIT_3 5
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x6
#define RLX_HASH_DIGIT_3 6
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x7
#define RLX_HASH_DIGIT_3 7
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x8
#define RLX_HASH_DIGIT_3 8
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0x9
#define RLX_HASH_DIGIT_3 9
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xA
#define RLX_HASH_DIGIT_3 A
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xB
#define RLX_HASH_DIGIT_3 B
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xC
#define RLX_HASH_DIGIT_3 C
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xD
#define RLX_HASH_DIGIT_3 D
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xE
#define RLX_HASH_DIGIT_3 E
#elif (RLX_CONFIG_HASH >> 12 & 15) == 0xF
#define RLX_HASH_DIGIT_3 F
#endif

#if (RLX_CONFIG_HASH >> 8 & 15) == 0x0
#define RLX_HASH_DIGIT_2 0
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x1
#define RLX_HASH_DIGIT_2 1
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x2
#define RLX_HASH_DIGIT_2 2
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x3
#define RLX_HASH_DIGIT_2 3
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x4
#define RLX_HASH_DIGIT_2 4
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x5
#define RLX_HASH_DIGIT_2 5
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x6
#define RLX_HASH_DIGIT_2 6
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x7
#define RLX_HASH_DIGIT_2 7
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x8
#define RLX_HASH_DIGIT_2 8
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0x9
#define RLX_HASH_DIGIT_2 9
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xA
#define RLX_HASH_DIGIT_2 A
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xB
#define RLX_HASH_DIGIT_2 B
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xC
#define RLX_HASH_DIGIT_2 C
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xD
#define RLX_HASH_DIGIT_2 D
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xE
#define RLX_HASH_DIGIT_2 E
#elif (RLX_CONFIG_HASH >> 8 & 15) == 0xF
#define RLX_HASH_DIGIT_2 F
#endif

#if (RLX_CONFIG_HASH >> 4 & 15) == 0x0
#define RLX_HASH_DIGIT_1 0
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x1
#define RLX_HASH_DIGIT_1 1
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x2
#define RLX_HASH_DIGIT_1 2
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x3
#define RLX_HASH_DIGIT_1 3
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x4
#define RLX_HASH_DIGIT_1 4
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x5
#define RLX_HASH_DIGIT_1 5
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x6
#define RLX_HASH_DIGIT_1 6
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x7
#define RLX_HASH_DIGIT_1 7
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x8
#define RLX_HASH_DIGIT_1 8
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0x9
#define RLX_HASH_DIGIT_1 9
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xA
#define RLX_HASH_DIGIT_1 A
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xB
#define RLX_HASH_DIGIT_1 B
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xC
#define RLX_HASH_DIGIT_1 C
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xD
#define RLX_HASH_DIGIT_1 D
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xE
#define RLX_HASH_DIGIT_1 E
#elif (RLX_CONFIG_HASH >> 4 & 15) == 0xF
#define RLX_HASH_DIGIT_1 F
#endif

#if (RLX_CONFIG_HASH >> 0 & 15) == 0x0
#define RLX_HASH_DIGIT_0 0
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x1
#define RLX_HASH_DIGIT_0 1
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x2
#define RLX_HASH_DIGIT_0 2
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x3
#define RLX_HASH_DIGIT_0 3
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x4
#define RLX_HASH_DIGIT_0 4
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x5
#define RLX_HASH_DIGIT_0 5
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x6
#define RLX_HASH_DIGIT_0 6
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x7
#define RLX_HASH_DIGIT_0 7
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x8
#define RLX_HASH_DIGIT_0 8
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0x9
#define RLX_HASH_DIGIT_0 9
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xA
#define RLX_HASH_DIGIT_0 A
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xB
#define RLX_HASH_DIGIT_0 B
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xC
#define RLX_HASH_DIGIT_0 C
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xD
#define RLX_HASH_DIGIT_0 D
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xE
#define RLX_HASH_DIGIT_0 E
#elif (RLX_CONFIG_HASH >> 0 & 15) == 0xF
#define RLX_HASH_DIGIT_0 F
#endif

#define RLX_JOIN_(name, a, b, c, d, e, f) name##_##a##b##c##d##e##f
#define RLX_JOIN(name, a, b, c, d, e, f)  RLX_JOIN_(name, a, b, c, d, e, f)
#define RLX_CONFIGURED(name)                                                               \
    RLX_JOIN(name, RLX_HASH_DIGIT_5, RLX_HASH_DIGIT_4, RLX_HASH_DIGIT_3, RLX_HASH_DIGIT_2, \
             RLX_HASH_DIGIT_1, RLX_HASH_DIGIT_0)
