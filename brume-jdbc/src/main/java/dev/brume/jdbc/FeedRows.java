package dev.brume.jdbc;

import dev.brume.JobName;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.spi.FeedNote;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** Reads the feed. */
final class FeedRows {
    private final Statements sql;
    private final Supplier<Instant> now;

    FeedRows(Statements sql, Supplier<Instant> now) {
        this.sql = sql;
        this.now = now;
    }

    boolean needsCare(Duration listened) {
        FeedHead head = FeedHead.read(sql, "");
        Instant at = now.get();
        return head.isToBeListenedAgain(at, listened)
                || head.settlesAt().filter(settles -> !at.isBefore(settles)).isPresent()
                || sql.first("select id from brume_feed where number is null limit 1", row -> row.number(1))
                        .isPresent();
    }

    private long epoch() {
        return sql.first("select epoch from brume_cluster where id = 1", row -> row.number(1))
                .orElseThrow();
    }

    FeedPosition end() {
        return end(FeedHead.read(sql, ""));
    }

    private FeedPosition end(FeedHead head) {
        return new FeedPosition(epoch(), head.number() + 1, 0);
    }

    /** A row; notes are empty where they are of kinds that only a newer version knows. */
    private record Fed(long number, Instant at, List<Optional<FeedNote>> notes) {
        Stream<FeedNote> known() {
            return notes.stream().flatMap(Optional::stream);
        }
    }

    FeedPage after(FeedPosition position, int limit) {
        List<Fed> rows = sql.query(
                "select number, fed_at, body from brume_feed where number >= ? order by number limit ?",
                row -> new Fed(row.number(1), row.instant("fed_at"), Json.feed(row.text("body"))),
                position.number(),
                limit + (position.index() > 0 ? 1 : 0));
        // Read afterwards: what was removed before the rows were read shows in it.
        FeedHead head = FeedHead.read(sql, "");
        boolean isGone = position.epoch() != epoch()
                || position.number() < head.keptFrom()
                || position.number() > head.number() + 1;
        if (isGone) {
            return new FeedPage(/* reset= */ true, List.of(), end(head));
        }
        Map<Long, Long> jobs = jobsOf(rows);
        Map<Long, JobName> names = names(rows, jobs);
        List<FeedEvent> events = new ArrayList<>();
        FeedPosition next = position;
        for (Fed row : rows) {
            int seen = row.number == position.number() ? position.index() : 0;
            for (int i = seen; i < row.notes.size(); i++) {
                FeedPosition behind = new FeedPosition(position.epoch(), row.number, i + 1);
                row.notes.get(i).ifPresent(note -> events.add(event(behind, row.at, note, jobs, names)));
                next = behind;
            }
        }
        return new FeedPage(/* reset= */ false, events, next);
    }

    private static FeedEvent event(
            FeedPosition behind, Instant at, FeedNote note, Map<Long, Long> jobs, Map<Long, JobName> names) {
        Optional<Long> job = note.jobId().or(() -> note.run().map(jobs::get));
        return new FeedEvent(
                behind, at, note.kind(), note.job().or(() -> job.map(names::get)), note.run(), note.facts());
    }

    /** Of runs that were noted without their job. */
    private Map<Long, Long> jobsOf(List<Fed> rows) {
        List<Long> runs = rows.stream()
                .flatMap(Fed::known)
                .filter(note -> note.jobId().isEmpty())
                .flatMap(note -> note.run().stream())
                .distinct()
                .toList();
        Map<Long, Long> jobs = new HashMap<>();
        sql.in(
                "select id, job_id from brume_run where id in ",
                runs,
                "",
                row -> jobs.put(row.number(1), row.number(2)));
        sql.in(
                "select run_id, job_id from brume_ledger where run_id in ",
                runs,
                "",
                row -> jobs.put(row.number(1), row.number(2)));
        return jobs;
    }

    private Map<Long, JobName> names(List<Fed> rows, Map<Long, Long> jobs) {
        List<Long> ids = rows.stream()
                .flatMap(Fed::known)
                .map(note -> note.jobId().or(() -> note.run().map(jobs::get)).orElse(null))
                .filter(Objects::nonNull)
                .distinct()
                .toList();
        Map<Long, JobName> names = new HashMap<>();
        sql.in(
                "select id, namespace, name from brume_job where id in ",
                ids,
                "",
                row -> names.put(row.number("id"), Rows.jobKey(row)));
        return names;
    }
}
