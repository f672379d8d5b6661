package dev.brume.internal.plan;

import dev.brume.Reason;
import dev.brume.history.SessionRow;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.spi.Transaction;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;

/** Decides what is owed by each instance: which of them there are, and which are busy with it. */
final class OnEach {
    private final Transaction tx;
    private final Map<String, SessionRow> newest = new TreeMap<>();
    private final Map<Long, Map<String, Integer>> running = new HashMap<>();

    OnEach(Transaction tx) {
        this.tx = tx;
        tx.sessions()
                .holdOpen()
                .forEach(session -> newest.merge(
                        session.instance(), session, (a, b) -> a.openedAt().isAfter(b.openedAt()) ? a : b));
    }

    List<PlanItem> spread(List<PlanItem> given) {
        return given.stream()
                .flatMap(item -> item.isForEach() ? each(item).stream() : Stream.of(item))
                .toList();
    }

    private List<PlanItem> each(PlanItem item) {
        List<PlanItem> all = newest.values().stream()
                .filter(session -> session.laneNames().contains(item.job().lane())
                        && session.labels().containsAll(item.job().requireLabels()))
                .map(session -> decide(item, session))
                .toList();
        return all.isEmpty()
                ? List.of(item.decided(Optional.empty(), Verdict.SKIP, Optional.of(Reason.NO_INSTANCE)))
                : all;
    }

    private PlanItem decide(PlanItem item, SessionRow session) {
        Map<String, Integer> busy = running.computeIfAbsent(item.row().id(), this::running);
        int now = busy.getOrDefault(session.instance(), 0);
        if (now >= item.job().ifBusy().places()) {
            return item.decided(Optional.of(session), Verdict.SKIP, Optional.of(Reason.BUSY));
        }
        busy.put(session.instance(), now + 1);
        return item.decided(Optional.of(session), Verdict.START, Optional.empty());
    }

    private Map<String, Integer> running(long job) {
        Map<String, Integer> busy = new HashMap<>();
        tx.orders().ofJob(job).stream()
                .filter(run -> run.needs().session().isPresent())
                .forEach(run -> busy.merge(run.owed().slot(), 1, Integer::sum));
        return busy;
    }
}
