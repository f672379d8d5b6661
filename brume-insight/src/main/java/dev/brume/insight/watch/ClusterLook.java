package dev.brume.insight.watch;

import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/** Looks at instances and lanes. Confined to one thread. */
final class ClusterLook {
    private static final Duration FRESH = Duration.ofSeconds(5);
    private static final Duration LATELY = Duration.ofDays(3);
    private static final Duration PATIENCE = Duration.ofSeconds(30);

    private List<SessionRow> sessions = List.of();
    private Optional<Instant> readAt = Optional.empty();
    private final Map<String, Instant> unservedSince = new HashMap<>();

    private List<SessionRow> sessions(History history, Instant now) {
        if (readAt.filter(at -> at.plus(FRESH).isAfter(now)).isEmpty()) {
            sessions = history.sessions(/* ended= */ true).stream()
                    .map(SessionView::row)
                    .toList();
            readAt = Optional.of(now);
        }
        return sessions;
    }

    /** Of each name, its newest session alone: one that has joined again has been seen to. */
    List<Sighting> lost(History history, Instant now) {
        Map<String, SessionRow> newest = new TreeMap<>();
        sessions(history, now)
                .forEach(session -> newest.merge(
                        session.instance(), session, (a, b) -> a.openedAt().isAfter(b.openedAt()) ? a : b));
        return newest.values().stream()
                .filter(session -> session.died() || session.lapsedAt(now))
                .filter(session -> session.leaseUntil().isAfter(now.minus(LATELY)))
                .map(session -> lost(session, now))
                .toList();
    }

    private static Sighting lost(SessionRow session, Instant now) {
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("instance", session.instance());
        facts.put("host", session.host());
        facts.put("process", Long.toString(session.pid()));
        facts.put("leaseUntil", session.leaseUntil().toString());
        return new Sighting(
                NoticeKind.INSTANCE_LOST,
                session.instance(),
                Optional.empty(),
                now,
                1,
                session.id().toString(),
                session.id().toString(),
                "Instance " + session.instance() + " is lost: its lease ended unrenewed at " + session.leaseUntil()
                        + " (host " + session.host() + ", process " + session.pid() + ")",
                facts);
    }

    /** A lane is unserved once runs have been ready in it for a while and no session that lives serves it. */
    List<Sighting> unserved(History history, Instant now) {
        Set<String> served = sessions(history, now).stream()
                .filter(session -> session.state() != SessionRow.State.ENDED && !session.lapsedAt(now))
                .flatMap(session -> session.laneNames().stream())
                .collect(Collectors.toSet());
        Map<String, Long> waiting = new TreeMap<>();
        history.backlog().lanes().stream()
                .filter(lane -> lane.state() == RunState.PLANNED || lane.state() == RunState.BACKING_OFF)
                .filter(lane -> lane.ready() > 0 && !served.contains(lane.name()))
                .forEach(lane -> waiting.merge(lane.name(), lane.ready(), Long::sum));
        unservedSince.keySet().retainAll(waiting.keySet());
        List<Sighting> seen = new ArrayList<>();
        waiting.forEach((lane, runs) -> {
            unservedSince.putIfAbsent(lane, now);
            if (!Objects.requireNonNull(unservedSince.get(lane)).plus(PATIENCE).isAfter(now)) {
                seen.add(new Sighting(
                        NoticeKind.LANE_UNSERVED,
                        lane,
                        Optional.empty(),
                        now,
                        1,
                        Objects.requireNonNull(unservedSince.get(lane)).toString(),
                        "unserved",
                        "Lane " + lane + " is served by nobody, and " + (runs == 1 ? "a run is" : runs + " runs are")
                                + " due in it",
                        Map.of("runs", Long.toString(runs))));
            }
        });
        return seen;
    }
}
