# Completion of gwiazda's commands, options and files; made by tools/make_manual.py.
_gwiazda() {
  local word="${COMP_WORDS[COMP_CWORD]}" words=""
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "open demo new check quick export sheets steps diagnose schema verify desktop-entry --help --version" -- "$word")); return
  fi
  case "${COMP_WORDS[1]}" in
    open) words=" -h --help" ;;
    demo) words="szron perkoz swistak bryla -h --help --out" ;;
    new) words=" -h --help --length --scale --decks --windows --name" ;;
    check) words=" -h --help --json" ;;
    quick) words=" -h --help --series" ;;
    export) words=" -h --help --shopping --book --sheets --half --steps --circuit --loom --holes --fibres --carriers --show --pins --currents --night --moving --dusk --round --parts --ownparts --stock --view --size --eye --frames --seconds --paper" ;;
    sheets) words=" -h --help --out --paper --half --book --only" ;;
    steps) words=" -h --help --from --tonight --csv --ics" ;;
    diagnose) words=" -h --help" ;;
    schema) words=" -h --help" ;;
    verify) words=" -h --help --json --builds --seed --read" ;;
    desktop-entry) words=" -h --help --remove" ;;
  esac
  COMPREPLY=($(compgen -W "$words" -- "$word") $(compgen -f -- "$word"))
}
complete -o filenames -F _gwiazda gwiazda
