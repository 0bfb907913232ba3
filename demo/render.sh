#!/usr/bin/env bash
# Renders the demo scenes to float pictures (Radiance .hdr) with Debian's povray. For developers: it takes
# about three hours on two cores. The frames are then taken from them by `npm run demo:frames`.
set -euo pipefail
cd "$(dirname "$0")/scenes"
out=../render-out
mkdir -p "$out"
size=(+W2240 +H1494)
quality=(+A0.25 +AM2 +R2 -D +FH)
# points of the lens through which the macro scenes are seen: evenly over its disc (Vogel 1979), the radius in mm given
lens_points=40
lens() { awk -v i="$1" -v n="$lens_points" -v r="$2" 'BEGIN { a = i * 2.399963229728653; q = r * sqrt((i + 0.5) / n); printf "Declare=U=%.5f Declare=V=%.5f", q * cos(a), q * sin(a) }'; }
for scene in "${@:-library bedroom dome hall ridge valley dusk clockdrive beetle moss gallery}"; do for name in $scene; do
  if [ "$name" = hall ]; then
    # the empty hall's indirect light serves all poses
    povray hall.pov +W1120 +H747 -A +R1 -D Declare=Fine=1 Declare=Pose=-1 "+RF$out/hall.rad" +RFO "+O$out/hall-empty.png"
    for pose in 0 1 2 3 4; do povray hall.pov "${size[@]}" "${quality[@]}" Declare=Fine=1 "Declare=Pose=$pose" "+RF$out/hall.rad" +RFI "+O$out/hall-$pose.hdr"; done
  elif [ "$name" = clockdrive ] || [ "$name" = beetle ] || [ "$name" = moss ]; then
    radius=1.5; [ "$name" = beetle ] && radius=0.55; [ "$name" = moss ] && radius=0.2
    for ((i = 0; i < lens_points; i++)); do
      # shellcheck disable=SC2046
      povray "$name.pov" +W1320 +H880 -A -D +FH $(lens "$i" "$radius") "+O$out/$name-$(printf %02d "$i").hdr"
      # the beetle lifts a leg during the run
      # shellcheck disable=SC2046
      if [ "$name" = beetle ]; then povray beetle.pov +W1320 +H880 -A -D +FH $(lens "$i" "$radius") Declare=Leg=1 "+O$out/beetle-moved-$(printf %02d "$i").hdr"; fi
    done
  elif [ "$name" = gallery ]; then
    # its indirect light is found once, at a small size
    povray gallery.pov +W480 +H240 -A +R1 -D Declare=Rays=400 "+RF$out/gallery.rad" +RFO "+O$out/gallery-light.png"
    povray gallery.pov +W4000 +H2000 +A0.3 +AM2 +R2 -D +FH Declare=Rays=400 "+RF$out/gallery.rad" +RFI "+O$out/gallery.hdr"
    # its floor once more from beside, the tripod taken away
    povray gallery.pov +W4000 +H2000 +SR1100 +A0.3 +AM2 +R2 -D +FH Declare=Beside=1 Declare=Rays=400 "+RF$out/gallery.rad" +RFI "+O$out/gallery-floor.hdr"
  elif [ "$name" = dusk ]; then
    # the land once, and which of it hides the sky; the sky for each of 15 frames, at the second at which it is taken
    dusk=(+W2560 +H1280 +A0.3 +AM2 +R2 -D Declare=Dusk=1)
    povray ridge.pov "${dusk[@]}" +FH "+O$out/dusk.hdr"
    povray ridge.pov "${dusk[@]}" +FN +UA Declare=Mask=1 "+O$out/dusk-land.png"
    for ((i = 0; i < 15; i++)); do povray ridge.pov "${dusk[@]}" +FH "Declare=Sky=$(awk -v i="$i" 'BEGIN { print int(i / 3) * 5.2 + (i % 3) * 0.9 }')" "+O$out/dusk-sky-$(printf %02d "$i").hdr"; done
  elif [ "$name" = valley ]; then
    povray valley.pov +W4840 +H2310 +A0.3 +AM2 +R2 -D +FH "+O$out/valley.hdr"
  elif [ "$name" = ridge ]; then
    povray ridge.pov +W4640 +H1856 +A0.3 +AM2 +R2 -D +FH "+O$out/ridge.hdr"
  else
    povray "$name.pov" "${size[@]}" "${quality[@]}" "+O$out/$name.hdr"
  fi
done; done
