package dev.brume.insight.watch;

import dev.brume.history.History;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Sighting;
import dev.brume.notice.Trouble;
import dev.brume.notice.Watch;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Looks for all that does not happen by itself and that some rule asks for: runs that are late or take long, deadlines, silence, lost instances, lanes
 * that nobody serves, and what is wrong with the record.
 *
 * @since 0.1.0
 */
public final class Vigil implements Watch {

    private final LiveRunsLook runs = new LiveRunsLook();
    private final PromisesLook promises = new PromisesLook();
    private final ClusterLook cluster = new ClusterLook();
    private final RecordLook record = new RecordLook();

    /** Creates it, having looked at nothing yet. */
    public Vigil() {
        // What it has read it keeps for a while.
    }

    @Override
    public Looked look(History history, Instant now, List<NoticeRule> rules) {
        Set<NoticeKind> asked = rules.stream()
                .flatMap(rule -> rule.all().stream())
                .collect(Collectors.toCollection(() -> EnumSet.noneOf(NoticeKind.class)));
        List<Sighting> seen = new ArrayList<>();
        Set<Trouble> lasting = EnumSet.noneOf(Trouble.class);
        if (asked.contains(NoticeKind.LATE) || asked.contains(NoticeKind.TOOK_LONGER)) {
            seen.addAll(runs.look(history, now, rules));
            lasting.add(Trouble.LATE);
        }
        if (asked.contains(NoticeKind.SILENT)
                || asked.contains(NoticeKind.DEADLINE_AT_RISK)
                || asked.contains(NoticeKind.DEADLINE_MISSED)) {
            seen.addAll(promises.look(history, now, asked));
        }
        if (asked.contains(NoticeKind.INSTANCE_LOST)) {
            seen.addAll(cluster.lost(history, now));
            lasting.add(Trouble.INSTANCE);
        }
        if (asked.contains(NoticeKind.LANE_UNSERVED)) {
            seen.addAll(cluster.unserved(history, now));
            lasting.add(Trouble.LANE);
        }
        record.look(history, now, asked, seen, lasting);
        return new Looked(seen, lasting);
    }
}
