#!/usr/bin/env bash
# Takes the pictures of this folder anew: the tool in a terminal of 1280x800, a page in a browser. Needs a release build.
set -euo pipefail
cd "$(dirname "$0")/../.."
. packaging/packages.sh
packages xvfb xterm xdotool imagemagick fonts-dejavu-core chromium chromium-driver python3-selenium
export PATH="$PWD/build/release/bin:$PATH" DISPLAY=:87
Xvfb $DISPLAY -screen 0 1280x800x24 >/dev/null 2>&1 &
display=$!
trap 'kill $display' EXIT
sleep 1

shot() { # name, shell commands, seconds that they take (2); each is shown behind a $ as if typed
    cat >"/tmp/shot.$$" <<EOF
say() { printf '\033[1m\$ %s\033[0m\n' "\$1"; eval "\$1"; }
cd "$PWD"
$2
sleep 60
EOF
    xterm -geometry "${columns:-181}x52+0+0" -fa 'DejaVu Sans Mono' -fs 9 -bg white -fg black -e bash "/tmp/shot.$$" &
    local term=$!
    if [ -n "${4:-}" ]; then sleep 1.5 && "$4"; fi
    sleep "${3:-2}"
    import -window root "docs/screenshots/$1.png"
    kill $term
    wait $term 2>/dev/null || true
    rm "/tmp/shot.$$"
}

tank=examples/tide_tank/tidetank.lexicon
shot talk "say 'rlx talk $tank <examples/tide_tank/conversation.txt'"
shot weigh "say 'rlx weigh $tank | head -n 8'; echo; say 'rlx weigh --chip avr --flash 32768 --ram 2048 examples/nursery/nursery.lexicon'"
keys() { xdotool key --delay 40 "$@" && sleep 0.25; }
types() { xdotool type --delay 40 "$1" && sleep 0.25; }
at_the_bench() {
    types 'gate op' && keys Tab Return && types 'glo' && keys Tab Tab && types '40' && keys Return && sleep 1
    keys Up Return && types '! le' && keys Tab && types 'on' && keys Return && types 'gate cl' && keys Tab Return
    types '! status' && keys Return && types 'feed 60' && keys Return && types 'gate st'
}
moves=examples/sluice
columns=158 shot live "say 'rlx talk --loads $moves/sluice.lexicon'" 2.5 at_the_bench
shot moves "say 'rlx talk --loads $moves/sluice.lexicon <$moves/conversation.txt | sed 2,10d | head -n 50'" 20
shore="rlx talk --link shore"
shot shore "cd examples/shore; say \"printf 'pump on\\nglow 140\\nlevel?\\n! from +15550199\\npump off\\n! from +15550143\\nhalt\\n' | $shore shore.lexicon\"; echo; say \"printf 'pump toggle\\n' | $shore --world cut.world shore.lexicon\"; echo; say \"printf 'pump on\\n' | $shore --wire shore.lexicon | sed -n '/CMTI/,/CMGD/p'\""
cat >/tmp/wrong.scene <<EOF
lexicon "tidetank.lexicon"
scene "The chiller follows the pump"
say bench "pump on"
hear bench "ok pump on*"
see chiller on within 200ms
EOF
nursery=examples/nursery/nursery.lexicon
shot drill "say 'rlx drill $nursery | head -n 50'" 20
works="rlx drill --firmware build/release/bin/works tests/drilled/works.lexicon | grep -A40 '^CAUSE' | cut -c1-158"
shot found "say \"WORKS=swaps $works | head -n 32\"; echo; say \"WORKS=cools ${works/CAUSE/FAIL} | tail -n 14\"" 30
build/release/bin/rlx drill $nursery --html /tmp/report.html >/dev/null
chromium --headless --no-sandbox --hide-scrollbars --window-size=1280,1000 --screenshot=docs/screenshots/report.png \
    file:///tmp/report.html >/dev/null 2>&1
build/release/bin/rlx talk --loads --trace /tmp/sluice.jsonl $moves/sluice.lexicon <$moves/conversation.txt >/dev/null
build/release/bin/rlx draw /tmp/sluice.jsonl -o docs/screenshots/timeline.png
deck=examples/deck
shot deck "cd $deck; say 'rlx play deck.scene'; echo; say \"printf '! deck.feed on\\\\n~ 700\\\\n! deck.feed off\\\\n~ 300\\\\n' | rlx talk --loads --world deck.world --link skiff ../nursery/nursery.lexicon | sed 1,22d\"" 5
shot learn "cd examples/workboat; say 'rlx learn hand.txt --lexicon workboat.lexicon'"
cp $tank /tmp/tidetank.lexicon
shot play "say 'rlx play examples/tide_tank/tidetank.scene examples/shore/shore.scene'; echo; cd /tmp; say 'cat wrong.scene'; echo; say 'rlx play wrong.scene'"
cat >/tmp/faulty.lexicon <<'EOF'
lexicon tidetank 1  "Tide tank, oyster nursery"
letters any-case    shorten 3
outptu pump    relay  pin 4 active low   safe on
output glow    led    pwm 1 at 1000      safe 0%
output beacon  led    pin 19 active lwo
output chiller relay  pin 3
command glow {level 0..255}             => glow
command beacon {on|off|blink}           => beacno
command dose {algae 250..5ml}           => dose()
link pad serial 9600 frame keys  + = "glow 300"
EOF
cat >/tmp/doubtful.lexicon <<'EOF'
lexicon tidetank 1
output chiller relay  pin 3
output glow    led    pwm 1 at 1kHz      safe 0%
command chiller {on|off}                => chiller
link bench serial 9600 frame line
accept D05 glow "its command comes with the next board"
EOF
shot check "cd /tmp; say 'rlx check faulty.lexicon'; echo; say 'rlx check doubtful.lexicon'; echo; say 'rlx check --explain D08'; cd $PWD; say 'rlx check $tank'"
shot card "say 'rlx card $tank'"
docs/screenshots/pages build/release/bin/rlx build/release/bin/works
rm /tmp/faulty.lexicon /tmp/doubtful.lexicon
