package dev.brume.simulator;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.history.LeaseKey;
import dev.brume.history.Pause;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.spi.OneOffOrder;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/** What the checker knows to be committed. Confined to one thread. */
final class Books {
    final Map<Debt, Long> owed;
    final Map<Long, RunRow> live;
    final Set<Long> held;
    final Map<Long, LeaseKey> leases;
    final Map<Long, Integer> caps;
    final Map<Place, Integer> placesTaken;
    final Set<Long> onEach;
    final Map<Long, Finished> finished;
    final Map<GateKey, Integer> gatesTaken;
    final Map<Long, Outcome> ended;
    final List<Long> endings;
    final List<Span> spans;
    final Map<Long, OneOffOrder> oneOffs;
    final Map<Long, TreeMap<Integer, Version>> versions;
    final Map<Long, Instant> dropped;
    final Map<UUID, Long> renewedAt;
    final Map<String, UUID> sessions;
    final List<Paused> paused;
    final Map<GateKey, List<Instant>> begun;

    /** What no two runs may be owed to. */
    record Debt(long job, Instant planned, String slot) {}

    /** Whose overlap is bounded: a job's runs, or those that one instance owes of it. */
    record Place(long job, String instance) {}

    /** A run that ended while someone held it. */
    record Finished(RunRow run, Outcome outcome, Instant endedAt) {}

    /** A definition and from when it holds, exclusive. */
    record Version(Job job, Instant after) {}

    /** A time in which jobs owe nothing. */
    record Paused(Pause.Scope scope, Instant from, Instant until) {}

    Books() {
        owed = new HashMap<>();
        live = new HashMap<>();
        held = new HashSet<>();
        leases = new HashMap<>();
        caps = new HashMap<>();
        placesTaken = new HashMap<>();
        onEach = new HashSet<>();
        finished = new TreeMap<>();
        gatesTaken = new HashMap<>();
        ended = new HashMap<>();
        endings = new ArrayList<>();
        spans = new ArrayList<>();
        oneOffs = new TreeMap<>();
        versions = new TreeMap<>();
        dropped = new HashMap<>();
        renewedAt = new HashMap<>();
        sessions = new HashMap<>();
        paused = new ArrayList<>();
        begun = new HashMap<>();
    }

    private Books(Books other) {
        owed = new HashMap<>(other.owed);
        live = new HashMap<>(other.live);
        held = new HashSet<>(other.held);
        leases = new HashMap<>(other.leases);
        caps = new HashMap<>(other.caps);
        placesTaken = new HashMap<>(other.placesTaken);
        onEach = new HashSet<>(other.onEach);
        finished = new TreeMap<>(other.finished);
        gatesTaken = new HashMap<>(other.gatesTaken);
        ended = new HashMap<>(other.ended);
        endings = new ArrayList<>(other.endings);
        spans = new ArrayList<>(other.spans);
        oneOffs = new TreeMap<>(other.oneOffs);
        versions = new TreeMap<>();
        other.versions.forEach((job, numbered) -> versions.put(job, new TreeMap<>(numbered)));
        dropped = new HashMap<>(other.dropped);
        renewedAt = new HashMap<>(other.renewedAt);
        sessions = new HashMap<>(other.sessions);
        paused = new ArrayList<>(other.paused);
        begun = new HashMap<>();
        other.begun.forEach((gate, starts) -> begun.put(gate, new ArrayList<>(starts)));
    }

    /** {@return every version of a job} */
    TreeMap<Integer, Version> versionsOf(long job) {
        return Objects.requireNonNull(versions.get(job), () -> "job " + job + " was never defined");
    }

    /** {@return a run that is to be live} */
    RunRow live(long run) {
        return Objects.requireNonNull(live.get(run), () -> "run " + run + " is not live");
    }

    /** {@return how many runs of a job may be unfinished at once} */
    int cap(long job) {
        return Objects.requireNonNull(caps.get(job), () -> "job " + job + " has no bound");
    }

    Books copy() {
        return new Books(this);
    }
}
