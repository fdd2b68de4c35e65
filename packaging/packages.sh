# Installs what is missing of the Debian packages named. Sourced by demo and check.
packages() {
    local missing=() name
    for name in "$@"; do
        [ "$(dpkg-query -W -f='${db:Status-Status}' "$name" 2>/dev/null)" = installed ] || missing+=("$name")
    done
    [ ${#missing[@]} -eq 0 ] && return 0
    echo "missing packages: ${missing[*]}"
    local root=()
    if [ "$(id -u)" -ne 0 ]; then
        command -v sudo >/dev/null || { echo "Install them as root: apt-get install ${missing[*]}"; return 1; }
        root=(sudo)
    fi
    "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq </dev/null &&
        "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
            "${missing[@]}" </dev/null >/dev/null
}

BUILD_PACKAGES="gcc libc6-dev cmake ninja-build pkg-config libglib2.0-dev libjansson-dev libxml2-dev libcairo2-dev fonts-dejavu-core libmbedtls-dev libedit-dev libserialport-dev libsoup-3.0-dev"
CHECK_PACKAGES="g++ clang lld clang-tidy cppcheck libclang-rt-dev gcc-arm-none-eabi qemu-system-arm qemu-system-misc gcc-avr avr-libc gcc-riscv64-unknown-elf picocom socat iproute2 procps libsimavr-dev lintian dpkg-dev groff doxygen fish zsh python3 python3-jsonschema python3-selenium chromium chromium-driver"
FIGURE_PACKAGES="libnewlib-arm-none-eabi valgrind gawk python3-numpy"
