package dev.brume.insight.doctor;

import dev.brume.history.History;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.TellingRow;
import dev.brume.notice.Channel;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/** The part of a checkup that is about notices: what did not arrive, and what nobody sends. */
final class NoticesCheck {
    private static final Duration PATIENCE = Duration.ofMinutes(5);

    private final History history;
    private final Instant now;
    private final Function<Instant, String> times;
    private final Findings found;

    NoticesCheck(History history, Instant now, Function<Instant, String> times, Findings found) {
        this.history = history;
        this.now = now;
        this.times = times;
        this.found = found;
    }

    void look() {
        List<TellingRow> tellings = history.tellings();
        if (tellings.isEmpty()) {
            return;
        }
        NoticeFigures figures = history.noticeFigures();
        if (figures.undelivered() > 0) {
            NoticeRow newest = history.notices(NoticeFilter.newest(1).in(Set.of(NoticeState.UNDELIVERED)))
                    .get(0);
            found.warning(
                    "notices",
                    newest.notice().channel(),
                    figures.undelivered() + (figures.undelivered() == 1 ? " notice was" : " notices were")
                            + " not delivered, the last one '" + newest.notice().title() + "'"
                            + newest.problem().map(problem -> ": " + problem).orElse(""),
                    "put the channel right and send them again: brume notices --state undelivered, brume notices again "
                            + newest.notice().id());
        }
        figures.oldestWaiting().filter(at -> at.plus(PATIENCE).isBefore(now)).ifPresent(at -> waiting(figures, at));
        undefined(tellings);
    }

    private void waiting(NoticeFigures figures, Instant at) {
        boolean untried = history.notices(NoticeFilter.newest(1000).in(Set.of(NoticeState.WAITING))).stream()
                .anyMatch(row ->
                        row.attempts() == 0 && row.nextAt().plus(PATIENCE).isBefore(now));
        if (untried) {
            found.problem(
                    "notices",
                    "",
                    figures.waiting() + " wait to be sent, the oldest since " + times.apply(at)
                            + ", and nobody has tried: no process that lives can send to their channels",
                    "start one that can: brume vigil, brume serve, or an application with the senders of brume-notices");
        }
    }

    private void undefined(List<TellingRow> tellings) {
        Set<String> channels = tellings.stream()
                .flatMap(row -> row.telling().channels().stream())
                .map(Channel::name)
                .collect(Collectors.toSet());
        tellings.forEach(row -> row.telling()
                .rules()
                .forEach(rule -> rule.to().stream()
                        .filter(name -> !channels.contains(name))
                        .forEach(name -> found.problem(
                                "notices",
                                rule.name(),
                                "tells the channel " + name + ", which nobody defines any more",
                                "define it, or change the rule in " + row.source()))));
    }
}
