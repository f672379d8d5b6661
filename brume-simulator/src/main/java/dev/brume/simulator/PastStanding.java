package dev.brume.simulator;

import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SessionView;
import dev.brume.insight.past.AsItWas;
import java.time.Instant;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.function.Predicate;

/**
 * How jobs, runs, sessions and gates stood at an instant, to be compared with what is worked out later.
 *
 * @param at when it was looked
 * @param jobs which version was in force of each, and whether it was paused
 * @param runs how each stood, or ended
 * @param sessions how many runs each had
 * @param gates how many places were taken
 */
record PastStanding(
        Instant at,
        SortedMap<String, String> jobs,
        SortedMap<Long, String> runs,
        SortedMap<String, Integer> sessions,
        SortedMap<String, Integer> gates) {
    private static final int RUNS = 15_000;

    /** Looks now. A job is paused from when a pause begins, and its row says so a moment later. */
    static PastStanding of(History history) {
        return of(history, view -> !Pause.covering(history.pauses(), view.job()).isEmpty(), held(history));
    }

    /** A place is free from when a run ended, and its gate says so a moment later. */
    private static SortedMap<String, Integer> held(History history) {
        SortedMap<String, Integer> held = new TreeMap<>();
        history.gates().forEach(gate -> held.put(gate.key().toString(), 0));
        history.runs(RunFilter.newest(RUNS)).stream()
                .filter(run ->
                        run.state().filter(state -> state != RunState.WAITING).isPresent())
                .flatMap(run -> history.version(run.job(), run.version()).stream())
                .flatMap(job -> job.gates().stream())
                .forEach(key -> held.merge(key.toString(), 1, Integer::sum));
        return held;
    }

    private static PastStanding of(History history, Predicate<JobView> paused, SortedMap<String, Integer> gates) {
        SortedMap<String, String> jobs = new TreeMap<>();
        for (JobView view : history.jobs()) {
            jobs.put(view.name().toString(), "version " + view.row().version() + (paused.test(view) ? ", paused" : ""));
        }
        SortedMap<Long, String> runs = new TreeMap<>();
        for (RunView run : history.runs(RunFilter.newest(RUNS))) {
            runs.put(run.id(), word(run));
        }
        SortedMap<String, Integer> sessions = new TreeMap<>();
        for (SessionView view : history.sessions(false)) {
            if (view.row().endedAt().isEmpty()) {
                sessions.put(view.row().id().toString(), view.runs());
            }
        }
        return new PastStanding(history.now(), jobs, runs, sessions, gates);
    }

    private static SortedMap<String, Integer> used(History history) {
        SortedMap<String, Integer> used = new TreeMap<>();
        history.gates().forEach(gate -> used.put(gate.key().toString(), gate.used()));
        return used;
    }

    private static String word(RunView run) {
        return run.job() + " "
                + run.outcome()
                        .map(Enum::name)
                        .or(() -> run.state().map(Enum::name))
                        .orElse("");
    }

    /** Works out what it was now, and compares. */
    void compare(History history) {
        AsItWas then = AsItWas.of(history, at);
        PastStanding now = of(then, view -> view.row().paused(), used(then));
        SortedMap<Long, String> worked = new TreeMap<>(now.runs);
        SortedMap<Long, String> seen = new TreeMap<>(runs);
        // What was to be planned, or had just been, stands as planned from its planned instant on; the ledger keeps
        // only so much.
        worked.entrySet()
                .removeIf(
                        each -> each.getValue().endsWith(RunState.PLANNED.name()) && !seen.containsKey(each.getKey()));
        seen.entrySet()
                .removeIf(each ->
                        each.getValue().endsWith(RunState.PLANNED.name()) && !worked.containsKey(each.getKey()));
        int unmade = runs.size() - seen.size();
        seen.keySet().removeIf(run -> history.run(run).isEmpty());
        worked.keySet().retainAll(seen.keySet());
        check("jobs", jobs, now.jobs);
        // What an attempt came to is on record a moment after it ended; one that was handed back before it began is on
        // record nowhere.
        int[] late = new int[1];
        seen.replaceAll((run, word) -> {
            String other = worked.getOrDefault(run, "");
            boolean hasEnded = word.endsWith(RunState.RUNNING.name())
                    && (other.endsWith(RunState.BACKING_OFF.name()) || other.endsWith(RunState.PLANNED.name()));
            late[0] += hasEnded ? 1 : 0;
            return hasEnded ? other : word;
        });
        seen.entrySet().stream()
                .filter(each -> !each.getValue().equals(worked.get(each.getKey())))
                .findFirst()
                .ifPresent(each -> {
                    throw new InvariantChecker.Violation(
                            "AS_IT_WAS",
                            "at " + at + " it was " + each.getValue() + ", and is worked out as "
                                    + worked.get(each.getKey()) + ": " + history.run(each.getKey()));
                });
        SortedMap<String, Integer> held = new TreeMap<>(now.sessions);
        held.replaceAll((session, count) -> {
            int had = sessions.getOrDefault(session, 0);
            return count < had ? Math.min(count + late[0], had) : count;
        });
        check("sessions", sessions, held);
        // A run that is planned a moment later takes its place a moment early; when a run was made that had been tried
        // several
        // times is not known.
        int early = now.runs.size() - worked.size();
        SortedMap<String, Integer> known = new TreeMap<>(now.gates);
        known.keySet().retainAll(gates.keySet());
        known.replaceAll((gate, used) -> {
            int taken = gates.getOrDefault(gate, 0);
            return used > taken ? Math.max(used - early, taken) : Math.min(used + unmade, taken);
        });
        SortedMap<String, Integer> places = new TreeMap<>(gates);
        places.keySet().retainAll(known.keySet());
        check("gates", places, known);
    }

    private <K, V> void check(String what, SortedMap<K, V> then, SortedMap<K, V> now) {
        if (!then.equals(now)) {
            SortedMap<K, V> others = new TreeMap<>(then);
            others.entrySet().removeAll(now.entrySet());
            SortedMap<K, V> instead = new TreeMap<>(now);
            instead.entrySet().removeAll(then.entrySet());
            throw new InvariantChecker.Violation(
                    "AS_IT_WAS", what + " at " + at + " were " + others + ", and are worked out as " + instead);
        }
    }
}
