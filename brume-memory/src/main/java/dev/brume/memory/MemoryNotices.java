package dev.brume.memory;

import dev.brume.history.CauseRow;
import dev.brume.history.JobRow;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.TellingRow;
import dev.brume.spi.Notable;
import dev.brume.spi.Notables;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.NoticeSteps;
import java.time.Instant;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;

/** The steps on notices, on maps. */
final class MemoryNotices implements NoticeSteps {
    private static final String HEAD = "head";

    private final Tables tables;
    private final Supplier<Instant> clock;

    MemoryNotices(Tables tables, Supplier<Instant> clock) {
        this.tables = tables;
        this.clock = clock;
    }

    /** One transaction at a time is all there is. */
    @Override
    public NoticeHead lock() {
        return read();
    }

    @Override
    public NoticeHead read() {
        return tables.noticeHead.getOrDefault(HEAD, NoticeHead.NONE);
    }

    @Override
    public void write(NoticeHead head) {
        tables.put(tables.noticeHead, HEAD, head);
    }

    @Override
    public List<TellingRow> tellings() {
        return List.copyOf(tables.tellings.values());
    }

    @Override
    public void add(TellingRow row) {
        tables.put(tables.tellings, row.source(), row);
    }

    /** Notes what a transaction has seen happen, as far as it is wanted. */
    void note(Notables all) {
        Set<Notable.Kind> wanted = read().wants();
        List<Notable> some = wanted.isEmpty() ? List.of() : all.of(wanted);
        if (!some.isEmpty()) {
            tables.put(tables.notables, tables.next("notable"), some);
        }
    }

    @Override
    public Map<Long, List<Notable>> notables(int limit) {
        Map<Long, List<Notable>> found = new LinkedHashMap<>();
        tables.notables.entrySet().stream().limit(limit).forEach(entry -> found.put(entry.getKey(), entry.getValue()));
        return found;
    }

    @Override
    public void forget(Collection<Long> notes) {
        notes.forEach(note -> tables.remove(tables.notables, note));
    }

    @Override
    public Map<Long, JobRow> jobs(Collection<Long> ids) {
        Map<Long, JobRow> found = new HashMap<>();
        ids.stream()
                .filter(tables.jobs::containsKey)
                .forEach(id -> found.put(id, Tables.row(tables.jobs, id).row()));
        return found;
    }

    @Override
    public Map<String, CauseRow> causes(Collection<String> keys) {
        Map<String, CauseRow> found = new HashMap<>();
        keys.stream().filter(tables.causes::containsKey).forEach(key -> found.put(key, Tables.row(tables.causes, key)));
        return found;
    }

    @Override
    public List<CauseRow> openCauses(int limit) {
        return causes(tables, CauseRow::isOpen).limit(limit).toList();
    }

    static Stream<CauseRow> causes(Tables tables, Predicate<CauseRow> which) {
        return tables.causes.values().stream()
                .filter(which)
                .sorted(Comparator.comparing(CauseRow::lastAt).reversed().thenComparing(CauseRow::key));
    }

    @Override
    public List<CauseRow> dueCauses(Instant by, int limit) {
        return tables.causes.values().stream()
                .filter(cause -> cause.nextAt().filter(at -> !at.isAfter(by)).isPresent())
                .sorted(Comparator.comparing((CauseRow cause) -> cause.nextAt().orElseThrow())
                        .thenComparing(CauseRow::key))
                .limit(limit)
                .toList();
    }

    @Override
    public void write(Collection<CauseRow> causes) {
        causes.forEach(cause -> tables.put(tables.causes, cause.key(), cause));
    }

    @Override
    public void addNotices(List<NoticeRow> notices) {
        for (NoticeRow row : notices) {
            String id = row.notice().id();
            if (!tables.noticeNumbers.containsKey(id)) {
                long number = tables.next("notice");
                tables.put(tables.noticeNumbers, id, number);
                tables.put(tables.notices, number, row.numbered(number));
            }
        }
    }

    @Override
    public List<NoticeRow> lease(Map<String, Integer> together, String holder, Instant until, int limit) {
        Instant at = clock.get();
        Set<String> seen = new HashSet<>();
        Map<String, Integer> counts = new HashMap<>();
        List<NoticeRow> due = tables.notices.values().stream()
                .filter(row -> row.state() == NoticeState.WAITING)
                .filter(row ->
                        seen.add(row.notice().cause() + " > " + row.notice().channel()))
                .filter(row -> !row.nextAt().isAfter(at))
                .filter(row ->
                        row.lease().filter(held -> held.until().isAfter(at)).isEmpty())
                .filter(row -> counts.merge(row.notice().channel(), 1, Integer::sum)
                        <= together.getOrDefault(row.notice().channel(), 0))
                .limit(limit)
                .map(row -> row.leased(holder, until))
                .toList();
        due.forEach(row -> tables.put(tables.notices, row.number(), row));
        return due;
    }

    @Override
    public Set<String> settle(Collection<NoticeRow> notices, String holder) {
        Set<String> settled = new HashSet<>();
        for (NoticeRow row : notices) {
            NoticeRow before = tables.notices.get(row.number());
            boolean held = before != null
                    && before.state() == NoticeState.WAITING
                    && before.lease()
                            .filter(lease -> lease.holder().equals(holder))
                            .isPresent();
            if (held) {
                tables.put(tables.notices, row.number(), row);
                settled.add(row.notice().id());
            }
        }
        return settled;
    }

    @Override
    public Optional<Instant> nextNotice() {
        return tables.notices.values().stream()
                .filter(row -> row.state() == NoticeState.WAITING)
                .map(NoticeRow::nextAt)
                .min(Comparator.naturalOrder());
    }

    @Override
    public Optional<NoticeRow> lockNotice(String id) {
        return Optional.ofNullable(tables.noticeNumbers.get(id)).map(tables.notices::get);
    }

    @Override
    public void write(NoticeRow notice) {
        tables.put(tables.notices, notice.number(), notice);
    }

    @Override
    public int tidy(Instant before, int limit) {
        List<NoticeRow> old = tables.notices.values().stream()
                .filter(row -> row.settledAt().filter(at -> at.isBefore(before)).isPresent())
                .limit(limit)
                .toList();
        old.forEach(row -> {
            tables.remove(tables.notices, row.number());
            tables.remove(tables.noticeNumbers, row.notice().id());
        });
        List<String> over = tables.causes.values().stream()
                .filter(cause ->
                        cause.closedAt().filter(at -> at.isBefore(before)).isPresent())
                .filter(cause -> cause.nextAt().isEmpty())
                .map(CauseRow::key)
                .limit(limit)
                .toList();
        over.forEach(key -> tables.remove(tables.causes, key));
        return old.size() + over.size();
    }

    // Looking.

    static List<NoticeRow> notices(Tables tables, NoticeFilter filter) {
        return tables.notices.descendingMap().values().stream()
                .filter(filter::letsThrough)
                .limit(filter.limit())
                .toList();
    }

    static NoticeFigures figures(Tables tables) {
        Map<NoticeState, Long> counts = new HashMap<>();
        tables.notices.values().forEach(row -> counts.merge(row.state(), 1L, Long::sum));
        List<CauseRow> open = causes(tables, CauseRow::isOpen).toList();
        return new NoticeFigures(
                counts.getOrDefault(NoticeState.WAITING, 0L),
                tables.notices.values().stream()
                        .filter(row -> row.state() == NoticeState.WAITING)
                        .map(row -> row.notice().at())
                        .min(Comparator.naturalOrder()),
                counts.getOrDefault(NoticeState.UNDELIVERED, 0L),
                counts.getOrDefault(NoticeState.DELIVERED, 0L),
                open.stream()
                        .flatMap(cause -> cause.told().stream())
                        .mapToLong(CauseRow.Told::folded)
                        .sum(),
                open.size(),
                tables.notables.size());
    }
}
