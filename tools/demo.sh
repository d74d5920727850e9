#!/bin/sh
# Opens the demo day. Without a display it starts in Xvfb for a few seconds and renders the demo export too.
set -eu
GLINTOR=.venv/bin/glintor
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
    exec "$GLINTOR" --demo
fi
echo "No display found: opening the demo day in Xvfb, then rendering its export."
DAY="${GLINTOR_DEMO_DIR:-build/demo}"
"$GLINTOR" demo "$DAY"
xvfb-run -a -s "-screen 0 1280x800x24" "$GLINTOR" "$DAY/hollin-cut.glintor" --close-after 8
"$GLINTOR" export "$DAY/hollin-cut.glintor" --to "$DAY/exports"
ls -l "$DAY/exports"
