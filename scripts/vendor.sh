#!/usr/bin/env bash
# Fetches the third-party scripts, styles and fonts at pinned versions and lays
# the files that the application embeds, with their licences, under
# app/web/static/vendor. The result is committed; run this only to change a
# version.
set -euo pipefail
cd "$(dirname "$0")/.."
out=app/web/static/vendor
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
cd "$tmp"
npm pack --silent three@0.187.0 bulma@1.0.4 htmx.org@2.0.11 htmx-ext-sse@2.2.4 idiomorph@0.8.0 uplot@1.6.32 fflate@0.8.3 three-mesh-bvh@0.9.17 occt-import-js@0.0.23 \
  @fontsource/barlow@5.3.0 @fontsource/barlow-semi-condensed@5.3.0 @fontsource/ibm-plex-mono@5.3.0 > packs
while read -r pack; do
  mkdir -p "${pack%.tgz}" && tar -xzf "$pack" -C "${pack%.tgz}" --strip-components=1
done < packs
cd - > /dev/null
rm -rf "$out" && mkdir -p "$out/three" "$out/fonts"
cp "$tmp"/three-[0-9]*/build/three.module.js "$tmp"/three-[0-9]*/build/three.core.js "$out/three/"
cp "$tmp"/three-[0-9]*/examples/jsm/controls/OrbitControls.js "$out/three/"
cp "$tmp"/three-[0-9]*/LICENSE "$out/three/"
for lib in bulma:css/bulma.min.css htmx.org:dist/htmx.min.js htmx-ext-sse:dist/sse.min.js idiomorph:dist/idiomorph-ext.min.js; do
  name=${lib%%:*}; file=${lib#*:}; dir=$(echo "$tmp/$name"-[0-9]*/)
  cp "$dir$file" "$out/"
  cp "$(ls "$dir"LICENSE* | head -1)" "$out/$name.LICENSE" 2> /dev/null || grep -h '"license"' "$dir/package.json" > "$out/$name.LICENSE"
done
mkdir "$out/bvh"
cp "$tmp"/three-mesh-bvh-*/build/index.module.js "$out/bvh/three-mesh-bvh.js"
cp "$tmp"/three-mesh-bvh-*/LICENSE "$out/bvh/"
sed -i "1s#from 'three';#from '../three/three.module.js';#; /sourceMappingURL/d" "$out/bvh/three-mesh-bvh.js"
mkdir "$out/uplot"
mkdir "$out/fflate"
cp "$tmp"/fflate-*/esm/browser.js "$out/fflate/fflate.js"
cp "$tmp"/fflate-*/LICENSE "$out/fflate/"
cp "$tmp"/uplot-*/dist/uPlot.esm.js "$tmp"/uplot-*/dist/uPlot.min.css "$tmp"/uplot-*/LICENSE "$out/uplot/"
# The reader of STEP files is fetched by a page only when such a file is chosen. Compressed it
# is a third of its size.
mkdir "$out/step"
cp "$tmp"/occt-import-js-*/dist/occt-import-js.js "$tmp"/occt-import-js-*/dist/license.*.txt "$out/step/"
gzip -9 -n < "$(echo "$tmp"/occt-import-js-*/dist/occt-import-js.wasm)" > "$out/step/occt-import-js.wasm.gz"
for font in barlow:400 barlow:500 barlow-semi-condensed:500 barlow-semi-condensed:600 ibm-plex-mono:400 ibm-plex-mono:500; do
  name=${font%%:*}; weight=${font#*:}; dir=$(echo "$tmp"/fontsource-"$name"-[0-9]*/)
  cp "$dir"files/"$name"-latin-"$weight"-normal.woff2 "$dir"files/"$name"-latin-ext-"$weight"-normal.woff2 "$out/fonts/"
  cp "$dir"LICENSE "$out/fonts/$name.LICENSE"
done
# Without an import map the controls must name their neighbour by its path.
sed -i "s#from 'three';#from './three.module.js';#" "$out/three/OrbitControls.js"
