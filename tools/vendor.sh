#!/usr/bin/env bash
# Fetch the pinned front-end files of tools/vendor.pins and lay them into the static folder, and
# those of tools/vendor-tests.pins into the tests' own.
# Development only: the files are committed, so neither set-up nor tests need the network for them.
set -euo pipefail
top=$(cd "$(dirname "$0")/.." && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
lay() {
goal=$2
grep -v '^#' "$top/tools/$1" | while read -r package integrity files; do
  cd "$work"
  archive=$(npm pack --silent "$package" | tail -n 1)
  found=$(openssl dgst -sha512 -binary "$archive" | base64 -w0)
  [ "$found" = "$integrity" ] || { echo "$package: checksum differs from its pin" >&2; exit 1; }
  rm -rf package && tar xzf "$archive"
  name=${package%@*}; name=${name##*/}
  [ "$name" = csp ] && name=alpine
  mkdir -p "$goal/$name"
  for file in $files; do
    # A map that is not shipped breaks the hashed static file store.
    case "$file" in
      *.js|*.css) sed -e "/^\\/\\/# sourceMappingURL=/d" -e "s,/[*]# sourceMappingURL=[^*]*[*]/,," "package/$file" > "$goal/$name/$(basename "$file")" ;;
      *) cp "package/$file" "$goal/$name/" ;;
    esac
  done
done
}
lay vendor.pins "$top/shapkeen/web/static/vendor"
lay vendor-tests.pins "$top/tests/vendor"
