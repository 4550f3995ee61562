#!/usr/bin/env bash
# Build the Debian package, unpack it elsewhere, and try what it holds: version, an analysis, the window, what the desktop reads.
set -eu
cd "$(dirname "$0")/.."
root=$(mktemp -d)
trap 'rm -rf "$root"' EXIT
deb=$(bash packaging/deb.sh "$root/out")
dpkg-deb -x "$deb" "$root/tree"
dpkg-deb -f "$deb" Depends | grep -q 'python3 (>= 3\.'
tree="$root/tree"
# where the package is installed it stands in /usr; here it is told where it is
sed -i "s#\"/usr/lib/ychronos#\"$tree/usr/lib/ychronos#" "$tree/usr/bin/ychronos"
export YCHRONOS_STATE="$root/state" YCHRONOS_CACHE="$root/cache" YCHRONOS_SETTINGS="$root/settings.ini" YCHRONOS_AUDIO=simulated
cd /
env -u PYTHONPATH -u VIRTUAL_ENV PATH="$tree/usr/bin:$PATH" ychronos --version | grep -q '^ychronos [0-9]'
demo=$(ls "$tree"/usr/lib/ychronos/ychronos/demo/*.ogg | head -1)
"$tree/usr/bin/ychronos" analyze "$demo" -q --jams "$root/song.jams"
grep -q chord_harte "$root/song.jams"
code=0
QT_QPA_PLATFORM=offscreen timeout -s TERM 12 "$tree/usr/bin/ychronos" --demo >/dev/null 2>&1 || code=$?
[ "$code" = 0 ] || [ "$code" = 124 ] || { echo "the window ended with $code"; exit 1; }
[ -e "$root/state/ychronos.log" ] || ls -R "$root/state" | grep -q log || { echo "the window did not start"; exit 1; }
gzip -t "$tree/usr/share/man/man1/ychronos.1.gz"
python3 - "$tree" <<'END'
import sys, xml.dom.minidom
from configparser import RawConfigParser
from pathlib import Path
share = Path(sys.argv[1]) / "usr" / "share"
entry = RawConfigParser(strict=True)
entry.optionxform = str
entry.read(share / "applications" / "radio.kestrelpoint.ychronos.desktop", encoding="utf8")
assert entry["Desktop Entry"]["Exec"] == "ychronos %f"
for name in ("metainfo/radio.kestrelpoint.ychronos.metainfo.xml", "mime/packages/radio.kestrelpoint.ychronos.xml",
             "icons/hicolor/scalable/apps/radio.kestrelpoint.ychronos.svg"):
    xml.dom.minidom.parse(str(share / name))
END
echo "package: $(du -h "$deb" | cut -f1), unpacked and started"
