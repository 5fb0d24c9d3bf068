# Shared by ./equilix and ./check: makes .venv and finds the shared libraries that Qt needs.
# Sourced by sh; `say` must be defined.

is_debian() { command -v apt-get >/dev/null 2>&1; }
is_root() { [ "$(id -u)" = 0 ]; }

install_packages() {
    # Try without refreshing the lists first: that needs no network when the packages are there.
    DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@" >/dev/null 2>&1 ||
        { apt-get update >/dev/null 2>&1 &&
            DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@" >/dev/null 2>&1; }
}

find_python() {
    for candidate in python3 python3.14 python3.13 python3.12 python3.11; do
        if command -v "$candidate" >/dev/null 2>&1 &&
            "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            command -v "$candidate"
            return 0
        fi
    done
    return 1
}

# prepare_environment FOLDER EXTRA: EXTRA is "dev" for the tools that ./check needs.
prepare_environment() {
    folder=$1
    extra=$2
    venv="$folder/.venv"
    locks="$folder/requirements.lock"
    stamp="$venv/equilix-ready"
    if [ "$extra" = dev ]; then
        locks="$locks $folder/requirements-dev.lock"
        stamp="$venv/equilix-ready-dev"
    fi
    # shellcheck disable=SC2086
    wanted=$(cat "$folder/pyproject.toml" $locks && printf '%s' "$folder")
    if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && "$venv/bin/python" -c '' 2>/dev/null; then
        return 0
    fi
    python=$(find_python) || {
        say "Python 3.11 or newer is needed; install it and start again."
        return 1
    }
    if ! "$python" -c 'import ensurepip, venv' 2>/dev/null; then
        version=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
        if is_root && is_debian; then
            say "installing python$version-venv"
            install_packages "python$version-venv" || install_packages python3-venv || true
        fi
        "$python" -c 'import ensurepip' 2>/dev/null || {
            say "Python's venv module is missing; run: sudo apt-get install python$version-venv"
            return 1
        }
    fi
    say "setting up in .venv, once"
    "$venv/bin/python" -c '' 2>/dev/null || { rm -rf "$venv" && "$python" -m venv "$venv"; } || {
        say "the environment can't be made in .venv; check that this folder can be written."
        return 1
    }
    for lock in $locks; do
        "$venv/bin/python" -m pip install --quiet --disable-pip-version-check -r "$lock" || {
            say "the packages can't be fetched; check the network connection and start again."
            return 1
        }
    done
    "$venv/bin/python" -m pip install --quiet --disable-pip-version-check --no-deps -e "$folder" || {
        say "Equilix can't be set up in .venv; delete that folder and start again."
        return 1
    }
    printf '%s' "$wanted" >"$stamp"
}

# Debian package of each shared library that Qt's window plug-ins may lack.
package_of() {
    case "$1" in
        libEGL.so*) echo libegl1 ;;
        libGL.so*) echo libgl1 ;;
        libOpenGL.so*) echo libopengl0 ;;
        libGLX.so*) echo libglx0 ;;
        libxkbcommon.so*) echo libxkbcommon0 ;;
        libxkbcommon-x11.so*) echo libxkbcommon-x11-0 ;;
        libfontconfig.so*) echo libfontconfig1 ;;
        libfreetype.so*) echo libfreetype6 ;;
        libdbus-1.so*) echo libdbus-1-3 ;;
        libglib-2.0.so* | libgthread-2.0.so* | libgobject-2.0.so* | libgio-2.0.so*) echo libglib2.0-0 ;;
        libX11.so*) echo libx11-6 ;;
        libX11-xcb.so*) echo libx11-xcb1 ;;
        libxcb.so*) echo libxcb1 ;;
        libxcb-cursor.so*) echo libxcb-cursor0 ;;
        libxcb-icccm.so*) echo libxcb-icccm4 ;;
        libxcb-image.so*) echo libxcb-image0 ;;
        libxcb-keysyms.so*) echo libxcb-keysyms1 ;;
        libxcb-randr.so*) echo libxcb-randr0 ;;
        libxcb-render-util.so*) echo libxcb-render-util0 ;;
        libxcb-render.so*) echo libxcb-render0 ;;
        libxcb-shape.so*) echo libxcb-shape0 ;;
        libxcb-shm.so*) echo libxcb-shm0 ;;
        libxcb-sync.so*) echo libxcb-sync1 ;;
        libxcb-util.so*) echo libxcb-util1 ;;
        libxcb-xfixes.so*) echo libxcb-xfixes0 ;;
        libxcb-xinput.so*) echo libxcb-xinput0 ;;
        libxcb-xkb.so*) echo libxcb-xkb1 ;;
        libwayland-client.so*) echo libwayland-client0 ;;
        libwayland-cursor.so*) echo libwayland-cursor0 ;;
        libwayland-egl.so*) echo libwayland-egl1 ;;
        libz.so*) echo zlib1g ;;
        libzstd.so*) echo libzstd1 ;;
        libbrotli*) echo libbrotli1 ;;
        *) echo "$1" ;;
    esac
}

missing_libraries() {
    qt=$(echo "$1"/.venv/lib/python3*/site-packages/PySide6)
    for file in "$qt"/QtCore.abi3.so "$qt"/QtGui.abi3.so "$qt"/QtWidgets.abi3.so \
        "$qt"/Qt/plugins/platforms/libqxcb.so "$qt"/Qt/plugins/platforms/libqoffscreen.so; do
        if [ -f "$file" ]; then ldd "$file" 2>/dev/null || true; fi
    done | sed -n 's/^[[:space:]]*\([^ ]*\) => not found.*/\1/p' | sort -u
}

# prepare_qt FOLDER: installs or names the shared libraries that Qt lacks; looked at once.
prepare_qt() {
    qt_stamp="$1/.venv/equilix-qt-ready"
    [ -f "$qt_stamp" ] && return 0
    if command -v ldd >/dev/null 2>&1; then
        missing=$(missing_libraries "$1")
        if [ -n "$missing" ]; then
            packages=$(for library in $missing; do package_of "$library"; done | sort -u | tr '\n' ' ')
            packages=${packages% }
            if is_root && is_debian; then
                say "installing $packages"
                # shellcheck disable=SC2086
                install_packages $packages || true
                missing=$(missing_libraries "$1")
            fi
            if [ -n "$missing" ]; then
                say "shared libraries for the window are missing; run: sudo apt-get install $packages"
                return 1
            fi
        fi
    fi
    : >"$qt_stamp"
}
