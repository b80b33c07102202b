#!/bin/sh
# own_display.sh NUMBER PROGRAM ARGUMENTS...: a program on a display of its own, from that number on, so that no other moves its
# pointer or takes its focus. With BONEMOSS_DISPLAY set it runs on the display there is.
first=$1
shift
[ -n "$BONEMOSS_DISPLAY" ] && exec "$@"
exec xvfb-run -a -n "$first" -s "-screen 0 1400x1000x24" "$@"
