#!/usr/bin/env bash
# Fetches htmx, Bulma (trimmed through its Sass sources) and the fonts from npm into web/static/vendor.
# Run by hand when a version below changes; what it writes is committed, so nothing is fetched at run time.
set -euo pipefail
HTMX=4.0.1 BULMA=1.0.4 B612=5.3.0 MONO=5.3.0 IDB=8.0.4
root=$(cd "$(dirname "$0")/.." && pwd)
vendor="$root/src/dry_gauge/web/static/vendor"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --silent --no-fund --no-audit "htmx.org@$HTMX" "bulma@$BULMA" "@fontsource/b612@$B612" "@fontsource/b612-mono@$MONO" "idb@$IDB" sass
mkdir -p "$vendor"
cp node_modules/htmx.org/dist/htmx.min.js "$vendor/htmx.min.js"
sed -i '/sourceMappingURL/d' "$vendor/htmx.min.js"
cp node_modules/idb/build/umd.js "$vendor/idb.js"
for weight in 400 700; do
  cp "node_modules/@fontsource/b612/files/b612-latin-$weight-normal.woff2" "$vendor/"
done
cp node_modules/@fontsource/b612-mono/files/b612-mono-latin-400-normal.woff2 "$vendor/"
npx sass --quiet --load-path=node_modules --style=compressed --no-source-map "$root/scripts/bulma.scss" "$vendor/bulma.trimmed.css"
for package in htmx.org bulma @fontsource/b612 @fontsource/b612-mono idb; do
  node -p "const p=require('./node_modules/$package/package.json'); '| ' + [p.name, p.version, p.license].join(' | ') + ' |'"
done > rows
mkdir -p "$vendor/licences"
cp node_modules/htmx.org/LICENSE "$vendor/licences/htmx.txt"
cp node_modules/bulma/LICENSE "$vendor/licences/bulma.txt"
cp node_modules/idb/LICENSE "$vendor/licences/idb.txt"
cp node_modules/@fontsource/b612/LICENSE "$vendor/licences/b612.txt"
cp node_modules/@fontsource/b612-mono/LICENSE "$vendor/licences/b612-mono.txt"
{ echo "# Shipped with the application"; echo; echo "Written by scripts/refresh_vendor.sh."; echo
  echo "| package | version | licence |"; echo "| --- | --- | --- |"; cat rows; } > "$vendor/README.md"
