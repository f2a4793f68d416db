# Completion of ondine for bash.
_ondine() {
  local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD - 1]} command=${COMP_WORDS[1]}
  local options="--demo --practice --logbook --folder --theme --screenshot --view --size --install-desktop --remove-desktop --version --help"
  local views="bench start close-up times coach map practice log log-table atlas timings compare film import in-and-out sitting shapes keys card safe rig valve liquid frame flash freeze expose colour trigger dials keep"
  case $before in
    --theme) mapfile -t COMPREPLY < <(compgen -W "day dark-room" -- "$word"); return ;;
    --view) mapfile -t COMPREPLY < <(compgen -W "$views" -- "$word"); return ;;
    --folder) mapfile -t COMPREPLY < <(compgen -d -- "$word"); return ;;
    --names) mapfile -t COMPREPLY < <(compgen -W "stem full" -- "$word"); return ;;
    --dates) mapfile -t COMPREPLY < <(compgen -W "day-first month-first" -- "$word"); return ;;
    --logbook | --screenshot | --csv | --sqlite | --pdf | --to | --recipe | --out | --restore) mapfile -t COMPREPLY < <(compgen -f -- "$word"); return ;;
  esac
  if [[ $COMP_CWORD -gt 1 ]]; then
    case $command in
      forecast) options="--json --help" ;;
      notation) options="--to --json --recipe --help" ;;
      preview) options="--at --out --size --help" ;;
      import) options="--logbook --help" ;;
      export) options="--csv --json --sqlite --to --help" ;;
      import-table) options="--map --dates --json --apply --help" ;;
      xmp) options="--names --to --json --help" ;;
      report) options="--pdf --sitting --help" ;;
      rescue) options="--to --help" ;;
      find) options="--json --csv --help" ;;
      match) options="--json --apply --help" ;;
      backup) options="--to --restore --help" ;;
      merge) options="--help" ;;
    esac
  fi
  if [[ $word == -* ]]; then
    mapfile -t COMPREPLY < <(compgen -W "$options" -- "$word")
  elif [[ $COMP_CWORD -eq 1 ]]; then
    mapfile -t COMPREPLY < <(compgen -W "forecast notation preview import export import-table xmp report rescue find match backup merge" -- "$word"; compgen -f -- "$word")
  else
    mapfile -t COMPREPLY < <(compgen -f -- "$word")
  fi
}
complete -o filenames -F _ondine ondine
