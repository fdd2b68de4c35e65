#!/bin/sh
# What a machine does with each change: build, play the scenes, drill; the results as JUnit XML.
set -e
make
rlx check @NAME@.lexicon
rlx play --firmware build/@NAME@ --junit build/scenes.xml @NAME@.scene
rlx drill --firmware build/@NAME@ --junit build/drill.xml @NAME@.lexicon
