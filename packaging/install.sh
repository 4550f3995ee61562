#!/usr/bin/env bash
# Install the program with all that it needs under ROOT/PREFIX: install.sh PREFIX [ROOT]
# The libraries come as the lock file has them, into a folder of their own; nothing of the system's Python is touched.
set -eu
cd "$(dirname "$0")/.."
prefix=$1
to="${2:-}$prefix"
python=${PYTHON:-python3}
version=$("$python" -c 'import sys; assert sys.version_info >= (3, 11), "Python 3.11 or newer is needed"; print("%d.%d" % sys.version_info[:2])')
pip=("$python" -m pip)
if ! "$python" -m pip --version >/dev/null 2>&1; then  # Debian's Python may come without it; a new environment has one
    tools=$(mktemp -d)
    "$python" -m venv "$tools"
    pip=("$tools/bin/python" -m pip)
fi
inside="$to/lib/ychronos"
rm -rf "$inside"
mkdir -p "$inside" "$to/bin"
"${pip[@]}" install --quiet --disable-pip-version-check --root-user-action ignore --target "$inside" -c requirements.lock .
rm -rf "$inside/bin" build/lib build/bdist.*
cat > "$to/bin/ychronos" <<END
#!/bin/sh
PYTHONPATH="$prefix/lib/ychronos\${PYTHONPATH:+:\$PYTHONPATH}" exec python$version -m ychronos "\$@"
END
chmod 755 "$to/bin/ychronos"
share=packaging/share
id=radio.kestrelpoint.ychronos
install -Dm644 $share/$id.desktop "$to/share/applications/$id.desktop"
install -Dm644 $share/$id.mime.xml "$to/share/mime/packages/$id.xml"
install -Dm644 $share/$id.metainfo.xml "$to/share/metainfo/$id.metainfo.xml"
install -Dm644 src/ychronos/app/signs/ychronos.svg "$to/share/icons/hicolor/scalable/apps/$id.svg"
install -Dm644 $share/ychronos.bash "$to/share/bash-completion/completions/ychronos"
install -Dm644 $share/_ychronos "$to/share/zsh/site-functions/_ychronos"
install -Dm644 $share/ychronos.fish "$to/share/fish/vendor_completions.d/ychronos.fish"
mkdir -p "$to/share/man/man1"
gzip -9nc $share/ychronos.1 > "$to/share/man/man1/ychronos.1.gz"
install -Dm644 LICENSE "$to/share/doc/ychronos/copyright"
install -Dm644 THIRD_PARTY.md "$to/share/doc/ychronos/THIRD_PARTY.md"
if [ -z "${2:-}" ]; then
    for one in "update-desktop-database -q $to/share/applications" "update-mime-database $to/share/mime" "gtk-update-icon-cache -qf $to/share/icons/hicolor"; do
        command -v "${one%% *}" >/dev/null && $one || true
    done
fi
echo "Installed: $to/bin/ychronos"
