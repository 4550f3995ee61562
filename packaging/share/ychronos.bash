# bash completion for ychronos
_ychronos() {
    local word=${COMP_WORDS[COMP_CWORD]} words
    case ${COMP_WORDS[1]} in
        align) words="--json --quiet --help" ;;
        analyze) words="--jams --project --title --no-cache --line --hear --quiet --help" ;;
        export) words="--bars --flat --ascii --no-shapes --paper --landscape --one-page --columns --no-words --no-times --no-numbers --no-strokes --no-tabs --no-gestures --bass --counts --plain --notes --names --to --pdf --text --over --brackets --jams --musicxml --midi --lrc --csv --labels --help" ;;
        *) words="align analyze export --demo --version --help" ;;
    esac
    if [[ $word == -* || $COMP_CWORD -eq 1 ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$words" -- "$word")
    fi
    compopt -o default
}
complete -F _ychronos ychronos
