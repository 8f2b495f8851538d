# What ./demo and ./test share: saying what happens, installing what is missing, building what is old.
# Sourced from the top of the checkout.

BINARY_DEV=$PWD/target/debug/gritty-ember
export CARGO_TERM_COLOR=${CARGO_TERM_COLOR:-never}

say() {
  printf '\n== %s\n' "$*"
}

# npm packages of the folders named, once for each lock file.
install_packages() {
  local folder stamp
  for folder in "$@"; do
    stamp=$folder/node_modules/.installed-from
    if ! cmp -s "$folder/package-lock.json" "$stamp"; then
      echo "installing the packages of $folder"
      npm --prefix "$folder" ci --no-audit --no-fund --loglevel=error || return 1
      cp "$folder/package-lock.json" "$stamp"
    fi
  done
}

install_chromium() {
  [ -x /usr/bin/chromium ] && return 0
  echo "installing Debian's chromium"
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium > /dev/null
}

# A C compiler is needed for SQLite, which is built in.
install_compiler() {
  command -v cc > /dev/null && return 0
  echo "installing a C compiler"
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq build-essential > /dev/null
}

# The web application, when anything it is made of is newer than what was built.
build_web() {
  if [ -f web/dist/index.html ] &&
    [ -z "$(find web/src web/public web/index.html web/package-lock.json web/vite.config.ts web/tsconfig.json -newer web/dist/index.html -print -quit)" ]; then
    echo "is up to date"
    return 0
  fi
  npm --prefix web run --silent build
}
