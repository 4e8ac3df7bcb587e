# Sourced by run-demo and run-tests: a virtual environment from the lock file, and the
# Debian libraries that Qt needs. Nothing is done that is already in place.

# Packages are compiled where they are used, and what is compiled is kept: many tests start the
# program, which else would be compiled anew each time.
unset PYTHONDONTWRITEBYTECODE

say() { printf '%s\n' "$*"; }

need_python() {
    for candidate in python3.11 python3 python3.12 python3.13; do
        if command -v "$candidate" >/dev/null 2>&1 &&
            "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            PYTHON=$candidate
            return
        fi
    done
    say "Vervain needs Python 3.11 or newer, and none was found. Install it, then run this again."
    exit 1
}

debian_packages="xvfb libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1
libglib2.0-0 fonts-dejavu-core libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0
libxcb-image0 libxcb-render-util0 libxcb-xinerama0 libxcb-randr0 libxtst6"

need_libraries() {
    command -v dpkg-query >/dev/null 2>&1 || return 0
    missing=""
    for package in $debian_packages "$@"; do
        # Newer Debian releases add "t64" to some library names.
        dpkg-query -W -f '${Status}\n' "$package" "${package}t64" 2>/dev/null |
            grep -q 'ok installed' || missing="$missing $package"
    done
    [ -n "$missing" ] || return 0
    if [ "$(id -u)" = 0 ]; then
        say "Installing Debian packages:$missing"
        apt-get update -qq >/dev/null 2>&1 || true
        if ! DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
            $missing >/dev/null 2>.set-up.log; then
            say "These Debian packages could not be installed:$missing"
            say "Qt may not start without them. What apt-get said is in .set-up.log."
        fi
    else
        say "These Debian packages are missing:$missing"
        say "If the window does not open: sudo apt-get install$missing"
    fi
}

set_up() {
    kind=$1
    need_python
    if [ "$kind" = dev ]; then
        # The first three judge the menu entry and the file type; with the others the tests read
        # the window as a screen reader does.
        need_libraries desktop-file-utils appstream shared-mime-info \
            dbus at-spi2-core python3-gi gir1.2-atspi-2.0
    else
        need_libraries
    fi
    stamp="$PYTHON $kind $(cat requirements.lock requirements-dev.lock | cksum)"
    [ "$(cat .venv/stamp 2>/dev/null)" = "$stamp" ] && return 0
    [ "$(cat .venv/stamp 2>/dev/null)" = "$PYTHON dev $(cat requirements.lock requirements-dev.lock | cksum)" ] && return 0
    say "Preparing the virtual environment (once) ..."
    if ! "$PYTHON" -m venv .venv >.set-up.log 2>&1; then
        if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
            need_libraries python3-venv
            "$PYTHON" -m venv --clear .venv
        else
            say "Python's venv module is missing. On Debian: sudo apt-get install python3-venv"
            exit 1
        fi
    fi
    lock=requirements.lock
    [ "$kind" = dev ] && lock=requirements-dev.lock
    if ! .venv/bin/python -m pip install --quiet --disable-pip-version-check \
        --no-compile --require-hashes -r "$lock" >.set-up.log 2>&1; then
        cat .set-up.log
        say "The packages in $lock could not be installed; is the package registry reachable?"
        exit 1
    fi
    printf '%s' "$stamp" >.venv/stamp
}
