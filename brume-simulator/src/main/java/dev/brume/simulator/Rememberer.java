package dev.brume.simulator;

import dev.brume.GateKey;
import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.insight.internal.VirtualTime;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.SplittableRandom;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * Somebody who looks now and then at what is in force, and later asks what it was at that instant: the answers are the same. Confined to one
 * thread.
 */
final class Rememberer {
    private static final long SECOND = 1_000_000_000L;
    private static final long TICK = 2_000;
    private static final int MOST = 30;

    /** All runs are looked at, which takes its time. */
    private static final int RARELY = 8;

    private static final int RUNS = 100_000;

    private final History history;
    private final VirtualTime time;
    private final SplittableRandom random;
    private final List<Seen> seen = new ArrayList<>();
    private final List<PastStanding> stood = new ArrayList<>();
    private boolean stopped;

    Rememberer(History history, VirtualTime time, SplittableRandom random) {
        this.history = history;
        this.time = time;
        this.random = random;
    }

    /** Without its end, which is known later. */
    private static String words(Pause pause) {
        return pause.scope() + " since " + pause.since();
    }

    /** What is the same whenever it is asked for: of sessions, who they are and whether they drain. */
    private record Seen(
            Instant at,
            List<String> pauses,
            SortedMap<String, Integer> caps,
            SortedMap<UUID, Boolean> draining,
            SortedSet<Long> waiting) {

        static Seen of(Past past) {
            return new Seen(
                    past.at(),
                    past.pauses().stream().map(Rememberer::words).sorted().toList(),
                    past.caps().entrySet().stream()
                            .collect(Collectors.toMap(
                                    entry -> entry.getKey().toString(),
                                    Map.Entry::getValue,
                                    (a, b) -> a,
                                    TreeMap::new)),
                    draining(past.sessions()),
                    past.waiting());
        }

        static SortedMap<UUID, Boolean> draining(List<SessionRow> sessions) {
            SortedMap<UUID, Boolean> draining = new TreeMap<>();
            sessions.forEach(row -> draining.put(row.id(), row.state() == SessionRow.State.DRAINING));
            return draining;
        }
    }

    /** The store is an older copy: what was lately has never been. */
    void forget() {
        seen.clear();
        stood.clear();
    }

    /** The clock was put elsewhere: from now on instants do not tell what was before what. */
    void stop() {
        forget();
        stopped = true;
    }

    /** Looks now and then. */
    void remember() {
        if (stopped) {
            return;
        }
        // Nothing else happens at the very instant that is remembered.
        time.drag(TICK);
        look();
        time.drag(TICK);
        for (Seen then : seen) {
            Seen now = Seen.of(history.past(then.at));
            Seen known = withCapsOf(then, now);
            if (!known.equals(now)) {
                throw new InvariantChecker.Violation("PAST", "it was " + known + ", and now it was " + now);
            }
        }
        if (!stood.isEmpty() && random.nextInt(RARELY) == 0) {
            stood.get(random.nextInt(stood.size())).compare(history);
        }
        if (stood.size() > MOST) {
            stood.remove(random.nextInt(stood.size()));
        }
        if (seen.size() > MOST) {
            seen.remove(random.nextInt(seen.size()));
        }
        time.after(random.nextLong(20 * SECOND), this::remember);
    }

    /** Gates that came later had their places from then on. */
    private static Seen withCapsOf(Seen then, Seen now) {
        SortedMap<String, Integer> caps = new TreeMap<>(now.caps);
        caps.putAll(then.caps);
        return new Seen(then.at, then.pauses, caps, then.draining, then.waiting);
    }

    private void look() {
        if (random.nextInt(RARELY) == 0) {
            stood.add(PastStanding.of(history));
        }
        SortedMap<String, Integer> caps = new TreeMap<>();
        // Those of one-offs come and go, and always have one place.
        history.gates().stream()
                .filter(gate -> gate.key().kind() != GateKey.Kind.ONE_OFF)
                .forEach(gate -> caps.put(gate.key().toString(), gate.cap()));
        List<SessionRow> live = history.sessions(false).stream()
                .map(SessionView::row)
                .filter(row -> row.endedAt().isEmpty())
                .sorted(Comparator.comparing(SessionRow::id))
                .toList();
        RunFilter waits = RunFilter.newest(RUNS).withState(RunState.WAITING);
        seen.add(new Seen(
                history.now(),
                history.pauses().stream().map(Rememberer::words).sorted().toList(),
                caps,
                Seen.draining(live),
                history.runs(waits).stream().map(RunView::id).collect(Collectors.toCollection(TreeSet::new))));
    }
}
