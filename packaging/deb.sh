#!/usr/bin/env bash
# Build a Debian package of the program with its libraries: deb.sh [FOLDER]; prints its path.
set -eu
cd "$(dirname "$0")/.."
out=${1:-build}
python=${PYTHON:-python3}
root=$(mktemp -d)
trap 'rm -rf "$root"' EXIT
chmod 755 "$root"
bash packaging/install.sh /usr "$root" >&2
version=$(sed -n 's/^version = "\(.*\)"/\1/p' pyproject.toml)
minor=$("$python" -c 'import sys; print(sys.version_info[1])')
needs=$(grep -v '^#\|^$\|^python3-venv\|^xvfb\|^xauth' packaging/apt.txt | paste -sd, | sed 's/,/, /g')
mkdir -p "$root/DEBIAN" "$out"
cat > "$root/DEBIAN/control" <<END
Package: ychronos
Version: $version
Architecture: $(dpkg --print-architecture)
Maintainer: Ychronos developers <nobody@localhost>
Installed-Size: $(du -sk "$root/usr" | cut -f1)
Depends: python3 (>= 3.$minor), python3 (<< 3.$((minor + 1))), $needs
Section: sound
Priority: optional
Description: from a recording to a chord chart that matches it
 Finds tuning, tempo, bars, key, chords and sections of a recording, shows them over the sound, and keeps what you correct.
END
name="$out/ychronos_${version}_$(dpkg --print-architecture).deb"
dpkg-deb --root-owner-group -Zgzip -z1 --build "$root" "$name" >&2
echo "$name"
