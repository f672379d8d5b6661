package dev.brume.http.internal.console;

import dev.brume.RunState;
import dev.brume.history.RunView;
import dev.brume.insight.board.Fate;
import java.util.Locale;
import java.util.Optional;

/** The forms of runs in lists. Stateless. */
final class Fates {
    private Fates() {}

    static Fate of(RunView run) {
        return run.outcome()
                .map(Fate::of)
                .orElseGet(
                        () -> run.state().filter(RunState.RUNNING::equals).isPresent() ? Fate.RUNNING : Fate.WAITING);
    }

    static String word(RunView run) {
        return word(run.outcome()
                        .<Enum<?>>map(outcome -> outcome)
                        .or(() -> run.state().map(state -> state))
                        .map(Enum::name)
                        .orElse("UNKNOWN"))
                + reason(run.reason());
    }

    private static String reason(Optional<String> reason) {
        return reason.map(text -> " (" + word(text) + ")").orElse("");
    }

    static String word(String constant) {
        return constant.toLowerCase(Locale.ROOT).replace('_', ' ');
    }
}
