package dev.brume.insight.watch;

import dev.brume.history.History;
import dev.brume.history.Timeframe;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.seal.SealCheck;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.Verdict;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import dev.brume.notice.Trouble;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * Looks at the record and at what the doctor finds, seldom, since that takes long; what was seen last holds meanwhile. Confined to one thread.
 */
final class RecordLook {
    private static final Map<NoticeKind, Duration> EVERY = Map.of(
            NoticeKind.FINDING, Duration.ofMinutes(5),
            NoticeKind.UNEXPLAINED, Duration.ofHours(1),
            NoticeKind.SEAL_BROKEN, Duration.ofHours(6));
    private static final Duration TALLIED = Duration.ofDays(1);
    private static final Duration SETTLED = Duration.ofMinutes(5);

    private final Map<NoticeKind, Instant> lookedAt = new EnumMap<>(NoticeKind.class);
    private final Map<NoticeKind, List<Sighting>> last = new EnumMap<>(NoticeKind.class);

    void look(History history, Instant now, Set<NoticeKind> asked, List<Sighting> seen, Set<Trouble> lasting) {
        EVERY.forEach((kind, every) -> {
            if (!asked.contains(kind)) {
                return;
            }
            Instant before = lookedAt.get(kind);
            if (before == null || !before.plus(every).isAfter(now)) {
                last.put(kind, look(kind, history, now));
                lookedAt.put(kind, now);
            }
            seen.addAll(Objects.requireNonNull(last.get(kind)));
            lasting.add(kind.trouble());
        });
    }

    private static List<Sighting> look(NoticeKind kind, History history, Instant now) {
        return switch (kind) {
            case FINDING -> findings(history, now);
            case UNEXPLAINED -> unexplained(history, now);
            default -> seals(history, now);
        };
    }

    private static List<Sighting> findings(History history, Instant now) {
        // How far off the clock of this machine is concerns nobody else.
        Checkup checkup = new Checkup(history, now, "", Instant::toString);
        return checkup.look().findings().stream()
                .filter(finding -> finding.severity() == Finding.Severity.PROBLEM)
                .map(finding -> {
                    String subject =
                            finding.about().isEmpty() ? finding.topic() : finding.topic() + " " + finding.about();
                    return new Sighting(
                            NoticeKind.FINDING,
                            subject,
                            Optional.empty(),
                            now,
                            1,
                            now.toString(),
                            "found",
                            subject + ": " + finding.text(),
                            Map.of("advice", finding.advice()));
                })
                .toList();
    }

    private static List<Sighting> unexplained(History history, Instant now) {
        Instant until = now.minus(SETTLED);
        Instant from = until.minus(TALLIED);
        List<Sighting> seen = new ArrayList<>();
        history.accounts(Timeframe.between(from, until), account -> {
            var tally = Tally.of(account, from, until);
            long count = tally.count(Verdict.UNEXPLAINED);
            if (count > 0) {
                seen.add(new Sighting(
                        NoticeKind.UNEXPLAINED,
                        tally.job().toString(),
                        Optional.empty(),
                        now,
                        count,
                        from.toString(),
                        "unexplained " + count,
                        tally.job() + " was owed "
                                + (count == 1 ? "an occurrence that is" : count + " occurrences that are")
                                + " neither on record nor live, between " + from + " and " + until,
                        Map.of("from", from.toString(), "until", until.toString())));
            }
        });
        return seen;
    }

    private static List<Sighting> seals(History history, Instant now) {
        return SealCheck.of(history, Optional.empty()).problem().stream()
                .map(problem -> new Sighting(
                        NoticeKind.SEAL_BROKEN,
                        "seals",
                        Optional.empty(),
                        now,
                        1,
                        now.toString(),
                        "broken",
                        "A seal over the record does not hold: " + problem,
                        Map.of("problem", problem)))
                .toList();
    }
}
