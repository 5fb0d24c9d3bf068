# Shared by ./equilix and ./check: makes .venv and finds the shared libraries that Qt needs.
# Sourced by sh; `say` must be defined.

# The user's own Python settings must change neither what is set up nor what runs, nor keep it from starting.
for name in $(env | sed -n 's/^\(PYTHON[A-Z0-9_]*\)=.*/\1/p'); do unset "$name"; done
unset VIRTUAL_ENV 2>/dev/null || true
PYTHONNOUSERSITE=1
export PYTHONNOUSERSITE

# Free space in MB that the set-up takes, without and with the tools for ./check.
SPACE=900
SPACE_DEV=1500

is_debian() { command -v apt-get >/dev/null 2>&1; }
is_root() { [ "$(id -u)" = 0 ]; }

# may_install PACKAGE...: asks, where somebody is there to ask.
may_install() {
    if [ ! -t 0 ] || [ ! -t 2 ]; then
        say "installing $*"
        return 0
    fi
    say "the system lacks $*."
    printf 'Install with apt-get? [Y/n] ' >&2
    read -r answer || return 1
    case "$answer" in '' | [YyJj]*) return 0 ;; esac
    return 1
}

# install_packages PACKAGE...: says why if that fails.
install_packages() {
    # Try without refreshing the lists first: that needs no network when the packages are there.
    report=$(DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@" 2>&1) && return 0
    report=$(apt-get update 2>&1 &&
        DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@" 2>&1) && return 0
    say "apt-get could not install $*: $(printf '%s\n' "$report" | tail -n 1)"
    return 1
}

find_python() {
    for candidate in python3 python3.14 python3.13 python3.12 python3.11; do
        if command -v "$candidate" >/dev/null 2>&1 &&
            "$candidate" -I -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            command -v "$candidate"
            return 0
        fi
    done
    return 1
}

# check_space FOLDER MB
check_space() {
    free=$(df -Pk "$1" 2>/dev/null | tail -n 1 | sed 's/.* \([0-9][0-9]*\)  *[0-9][0-9]*%.*/\1/')
    case "$free" in '' | *[!0-9]*) return 0 ;; esac
    if [ "$free" -lt "$(($2 * 1024))" ]; then
        say "the set-up needs $2 MB on the disk of this folder, $((free / 1024)) MB are free; make room and start again."
        return 1
    fi
}

# run_pip ARGUMENT...: pip without the user's settings, but for the way to the package registry.
run_pip() {
    for name in index-url extra-index-url cert client-cert proxy trusted-host; do
        value=$(printf '%s\n' "$pip_settings" | sed -n "s/^[a-z:]*\.$name='\(.*\)'\$/\1/p" | tail -n 1)
        case "$name:$value" in
            *: | *\\n*) ;;
            extra-index-url:* | trusted-host:*) # several, and without spaces
                for one in $value; do set -- "$@" "--$name" "$one"; done
                ;;
            *) set -- "$@" "--$name" "$value" ;;
        esac
    done
    "$venv/bin/python" -I -m pip --isolated --disable-pip-version-check "$@" >"$venv/pip.log" 2>&1
}

# one_of PACKAGE LIST: what the list of pinned packages says of one of them.
one_of() { grep -A 9 "^$1==" "$2" | sed '1!{/^[^ ]/,$d;}'; }

# explain_pip WORDS: says why pip failed.
explain_pip() {
    if grep -q 'No space left' "$venv/pip.log"; then
        say "$1: the disk is full; make room and start again."
    elif grep -q 'DO NOT MATCH THE HASHES' "$venv/pip.log"; then
        say "$1: what was fetched is not what this version was tested with; see .venv/pip.log."
    elif grep -qiE 'connection|resolve|timed out|retrying|No matching distribution|Network' "$venv/pip.log"; then
        say "$1: there is no way to the package registry; check the network connection and start again."
    else
        say "$1: $(grep . "$venv/pip.log" | tail -n 1); see .venv/pip.log."
    fi
}

# prepare_environment FOLDER EXTRA: EXTRA is "dev" for the tools that ./check needs.
prepare_environment() {
    folder=$1
    venv="$folder/.venv"
    if [ "$2" = dev ]; then
        set -- "$folder/requirements.lock" "$folder/requirements-dev.lock"
        stamp="$venv/equilix-ready-dev"
        space=$SPACE_DEV
    else
        set -- "$folder/requirements.lock"
        stamp="$venv/equilix-ready"
        space=$SPACE
    fi
    wanted=$(cat "$folder/pyproject.toml" "$@" && printf '%s' "$folder")
    if [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && "$venv/bin/python" -I -c '' 2>/dev/null; then
        return 0
    fi
    python=$(find_python) || {
        say "Python 3.11 or newer is needed; install it and start again."
        return 1
    }
    if ! "$python" -I -c 'import ensurepip, venv' 2>/dev/null; then
        version=$("$python" -I -c 'import sys; print("%d.%d" % sys.version_info[:2])')
        if is_root && is_debian && may_install "python$version-venv"; then
            install_packages "python$version-venv" || install_packages python3-venv || true
        fi
        "$python" -I -c 'import ensurepip' 2>/dev/null || {
            say "Python's venv module is missing; run: sudo apt-get install python$version-venv"
            return 1
        }
    fi
    [ -d "$venv/lib" ] || check_space "$folder" "$space" || return 1
    case "$folder" in *:*)
        say "Equilix can't be set up in a folder with a colon in its name or above it; move or rename it and start again."
        return 1
        ;;
    esac
    say "setting up in .venv, once"
    rm -f "$stamp"
    "$venv/bin/python" -I -c 'import pip' 2>/dev/null ||
        { rm -rf "$venv" && "$python" -I -m venv "$venv" >/dev/null 2>&1; } || {
        say "the environment can't be made in .venv; check that this folder can be written."
        return 1
    }
    pip_settings=$("$venv/bin/python" -I -m pip config list 2>/dev/null) || pip_settings=
    # The smallest package first, without patience: a machine without a network is told so in seconds.
    one_of platformdirs "$folder/requirements.lock" >"$venv/first.txt"
    run_pip install --no-deps --require-hashes --retries 0 --timeout 10 -r "$venv/first.txt" || {
        explain_pip "the packages can't be fetched"
        return 1
    }
    for lock in "$@"; do
        # The tool that builds goes first: what has to be built is looked at before anything of the list is there.
        one_of setuptools "$lock" >"$venv/first.txt"
        [ ! -s "$venv/first.txt" ] || run_pip install --no-deps --require-hashes -r "$venv/first.txt" || {
            explain_pip "the packages can't be fetched"
            return 1
        }
        # All that is needed is in the lists, with its hash; what has to be built is built by the tool in the lists.
        run_pip install --no-deps --require-hashes --no-build-isolation -r "$lock" || {
            explain_pip "the packages can't be fetched"
            return 1
        }
    done
    # The sources stay where they are; Python is told so in letters that every locale reads alike.
    "$venv/bin/python" -I -c 'import sys, sysconfig
with open(sysconfig.get_paths()["purelib"] + "/equilix.pth", "w", encoding="ascii") as file:
    file.write("import sys; sys.path.append(%s)\n" % ascii(sys.argv[1]))' "$folder/src" || {
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
    for qt in "$1"/.venv/lib/python3*/site-packages/PySide6; do
        for file in "$qt"/QtCore.abi3.so "$qt"/QtGui.abi3.so "$qt"/QtWidgets.abi3.so \
            "$qt"/Qt/plugins/platforms/libqxcb.so "$qt"/Qt/plugins/platforms/libqoffscreen.so; do
            if [ -f "$file" ]; then ldd "$file" 2>/dev/null || true; fi
        done
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
            # shellcheck disable=SC2086 # names of packages have no spaces
            if is_root && is_debian && may_install $packages; then
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
