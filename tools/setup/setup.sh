#!/usr/bin/env bash
# Install what is missing: Debian's packages, and the virtual environment from locked requirements.
# Usage: tools/setup/setup.sh base|serve|dev|bench|ear; serve has the proxy, bench also has the synthesisers that say the truth, ear what trains the ear.
# Says nothing when everything is there.
set -euo pipefail
cd "$(dirname "$(readlink -f "$0")")/../.."
kind=${1:-base}
# The kinds that are dev and more share its locked requirements.
locked=$kind
case "$kind" in bench|ear) locked=dev ;; serve) locked=base ;; esac
fail() { echo "run: $*" >&2; exit 1; }

# A plain pipe into grep -q would end ldconfig early, which pipefail takes for a failure.
has_library() { case "$(PATH="$PATH:/sbin:/usr/sbin" ldconfig -p 2>/dev/null)" in *"$1"*) ;; *) return 1 ;; esac; }

# Installed before or by hand elsewhere: ask for the thing, not for the package.
missing=()
compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || missing+=(postgresql)
command -v ffmpeg >/dev/null && command -v ffprobe >/dev/null || missing+=(ffmpeg)
# Puts each page's scripts into one file.
command -v esbuild >/dev/null || missing+=(esbuild)
has_library libespeak-ng.so.1 || missing+=(libespeak-ng1 espeak-ng-data)
# Sheets on paper and burnt-in words are set in these.
[ -f /usr/share/fonts/truetype/noto/NotoSans-Regular.ttf ] || missing+=(fonts-noto-core)
[ -f /usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf ] || missing+=(fonts-droid-fallback)
if [ "$kind" = serve ]; then
  [ -x /usr/sbin/nginx ] || missing+=(nginx-light)
fi
command -v setpriv >/dev/null || missing+=(util-linux)
if [ "$locked" = dev ]; then
  command -v chromium >/dev/null || missing+=(chromium)
  command -v firefox-esr >/dev/null || missing+=(firefox-esr)
  command -v WebKitWebDriver >/dev/null || missing+=(webkit2gtk-driver)
  command -v Xvfb >/dev/null || missing+=(xvfb)
  command -v pulseaudio >/dev/null || missing+=(pulseaudio)
  # What WebKit plays sound with.
  dpkg -s gstreamer1.0-plugins-good >/dev/null 2>&1 || missing+=(gstreamer1.0-plugins-good gstreamer1.0-plugins-bad gstreamer1.0-libav gstreamer1.0-pulseaudio)
  # The browser's driver is a node that needs it.
  has_library libatomic.so.1 || missing+=(libatomic1)
fi
if [ "$kind" = bench ] || [ "$kind" = ear ]; then
  command -v flite >/dev/null || missing+=(flite)
  command -v festival >/dev/null || missing+=(festival)
  for voice in english/kal_diphone=festvox-kallpc16k english/ked_diphone=festvox-kdlpc16k us/cmu_us_slt_arctic_hts=festvox-us-slt-hts \
    italian/lp_diphone=festvox-italp16k italian/pc_diphone=festvox-itapc16k czech/czech_dita=festvox-czech-dita \
    czech/czech_machac=festvox-czech-machac czech/czech_krb=festvox-czech-krb czech/czech_ph=festvox-czech-ph \
    finnish/suo_fi_lj_diphone=festvox-suopuhe-lj finnish/hy_fi_mv_diphone=festvox-suopuhe-mv \
    hindi/hindi_NSK_diphone=festvox-hi-nsk marathi/marathi_NSK_diphone=festvox-mr-nsk telugu/telugu_NSK_diphone=festvox-te-nsk \
    catalan/upc_ca_ona_hts=festvox-ca-ona-hts russian/msu_ru_nsh_clunits=festvox-ru; do
    [ -d "/usr/share/festival/voices/${voice%=*}" ] || missing+=("${voice#*=}")
  done
  # What the Indic voices only recommend, and are silent without.
  for language in hindi=festival-hi marathi=festival-mr telugu=festival-te; do
    [ -d "/usr/share/festival/${language%=*}_scm" ] || missing+=("${language#*=}")
  done
  # Recordings of people with their words.
  [ -d /usr/share/tuxpaint/stamps ] || missing+=(tuxpaint-stamps-default)
  [ -d /usr/share/klettres ] || missing+=(klettres-data)
  [ -d /usr/share/asterisk/sounds/it_IT_f_Menardi ] || missing+=(asterisk-prompt-it-menardi-gsm)
  [ -d /usr/share/asterisk/sounds/fr ] || missing+=(asterisk-prompt-fr-armelle)
  [ -f /usr/share/games/warzone2100/base.wz ] || missing+=(warzone2100-data)
  [ -d /usr/share/festival/dicts/cmu ] || missing+=(festlex-cmu festlex-poslex festlex-ifd)
fi
python=
for candidate in /usr/bin/python3.11 /usr/bin/python3 python3.11 python3; do
  if command -v "$candidate" >/dev/null && "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
    python=$candidate; break
  fi
done
[ -n "$python" ] || missing+=(python3)
if [ ! -x .venv/bin/python ] && ! { [ -n "$python" ] && "$python" -c 'import ensurepip' 2>/dev/null; }; then
  missing+=(python3-venv)
fi

if [ ${#missing[@]} -gt 0 ]; then
  command -v apt-get >/dev/null || fail "these are missing: ${missing[*]}. Install them; without apt-get that is yours to do."
  as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || fail "these Debian packages are missing: ${missing[*]}. Install them as root, or start as a user with sudo."
    as_root=(sudo)
  fi
  echo "Installing from Debian: ${missing[*]}"
  log=$(mktemp)
  # Debian would start its own proxy at once, for the whole world: it is only started by us.
  case " ${missing[*]} " in *" nginx-light "*) may_start=/usr/sbin/policy-rc.d ;; *) may_start= ;; esac
  if [ -n "$may_start" ] && [ ! -e "$may_start" ]; then
    printf '#!/bin/sh\ncase "$1" in nginx*) exit 101 ;; esac\nexit 0\n' | "${as_root[@]}" tee "$may_start" >/dev/null
    "${as_root[@]}" chmod 755 "$may_start"
    trap '"${as_root[@]}" rm -f "$may_start"' EXIT
  fi
  if ! { "${as_root[@]}" apt-get update && "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive \
         apt-get install -y --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
    tail -n 5 "$log" >&2
    fail "Debian's packages could not be installed; the whole log is in $log"
  fi
  rm -f "$log"
  if [ -n "$may_start" ] && command -v systemctl >/dev/null; then
    "${as_root[@]}" systemctl disable --quiet nginx 2>/dev/null || true
  fi
  [ -n "$python" ] || python=/usr/bin/python3
fi

stamp=$(sha256sum "requirements/$locked.txt" | cut -c1-64)
have=$(cat ".venv/.stamp-$locked" 2>/dev/null || true)
if [ "$stamp" != "$have" ] || [ ! -x .venv/bin/python ]; then
  [ -x .venv/bin/python ] || "$python" -m venv .venv || fail "the virtual environment could not be made; is the disk full?"
  echo "Installing Python packages ($kind); the first time takes some minutes"
  .venv/bin/python -m pip install --quiet --disable-pip-version-check --require-hashes -r "requirements/$locked.txt" 2> >(grep -v -e DEPRECATION -e '^WARNING' >&2) \
    || fail "the Python packages could not be installed; see the lines above."
  echo "$stamp" > ".venv/.stamp-$locked"
  [ "$locked" = dev ] && sha256sum requirements/base.txt | cut -c1-64 > .venv/.stamp-base
fi
# What only some languages need; an empty TINFORK_EXTRAS leaves it out.
for extra in ${TINFORK_EXTRAS-japanese}; do
  [ -f "requirements/$extra.txt" ] || fail "there is no extra '$extra'"
  stamp=$(sha256sum "requirements/$extra.txt" | cut -c1-64)
  if [ "$stamp" != "$(cat ".venv/.stamp-$extra" 2>/dev/null || true)" ]; then
    .venv/bin/python -m pip install --quiet --disable-pip-version-check --require-hashes -r "requirements/$extra.txt" 2> >(grep -v -e DEPRECATION -e '^WARNING' >&2) \
      || fail "the extra '$extra' could not be installed; see the lines above."
    echo "$stamp" > ".venv/.stamp-$extra"
  fi
done
[ -f .venv/words-model/model.bin ] || .venv/bin/python -m tools.setup.words_model
[ -d .venv/face-models ] || .venv/bin/python -m tools.setup.face_models
if [ "$kind" = ear ] && ! .venv/bin/python -c 'import hibari, torch' 2>/dev/null; then
  echo "Installing what trains the ear; this is large"
  .venv/bin/python -m pip install --quiet --disable-pip-version-check -r requirements/ear.txt || fail "torch could not be installed; see the lines above."
fi
exit 0
