package dev.brume.insight.seal;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.Mark;
import dev.brume.history.Members;
import dev.brume.history.Reach;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Computes all seals again, and names the first row that is not as it was sealed.
 *
 * <p>A sealed row may be gone if retention has put its number into the change log, whose own lines are sealed, and if that note holds against the bounds that were in
 * force and against what the seals know ({@link Removals}).
 * A person who can write to every table can make all seals anew; only a head that was kept elsewhere shows that. Confined to one
 * thread.
 *
 * @since 0.1.0
 */
public final class SealCheck {
    private static final int PAGE = 2000;
    private static final int PAGE_OF_SEALS = 20;

    private final History history;
    private final Removals removals;
    private final Map<SealedKind, IdRanges> sealed = new EnumMap<>(SealedKind.class);
    private final Map<SealedKind, Long> counts = new EnumMap<>(SealedKind.class);
    private long removed;

    private SealCheck(History history) {
        this.history = history;
        removals = Removals.of(history);
    }

    /**
     * The result of a check.
     *
     * @param problem the first thing that is not as it was sealed; empty if all is
     * @param seals how many were computed again
     * @param counts how many rows of each kind they cover
     * @param removed how many sealed rows retention has removed since
     * @param unsealed how many ledger lines came after the newest seal
     * @param head where sealing stands
     * @param removals what the change log says of what retention removed, since the head that was kept if one was, the newest first
     * @param erasures of whose content the record says that it was erased, since the head that was kept if one was
     */
    public record Result(
            Optional<String> problem,
            long seals,
            Map<SealedKind, Long> counts,
            long removed,
            long unsealed,
            SealHead head,
            List<Removal> removals,
            List<CheckedErasure> erasures) {

        /** {@return how many rows of a kind the seals cover} */
        public long count(SealedKind kind) {
            return counts.getOrDefault(kind, 0L);
        }
    }

    /**
     * A head that was kept elsewhere.
     *
     * @param number of the seal
     * @param digest that it had
     */
    public record Kept(long number, String digest) {}

    /** Checks. */
    public static Result of(History history, Optional<Kept> kept) {
        return new SealCheck(history).check(kept);
    }

    private Result check(Optional<Kept> kept) {
        SealHead head = history.sealHead();
        IdRanges knownBefore = IdRanges.NONE;
        String before = SealHead.NOTHING;
        long number = 0;
        Optional<String> problem = Optional.empty();
        boolean met = kept.isEmpty() || kept.get().number() == 0;
        List<Seal> page = history.seals(0, PAGE_OF_SEALS);
        while (!page.isEmpty() && problem.isEmpty()) {
            for (Seal seal : page) {
                problem = check(seal, number + 1, before);
                if (problem.isPresent()) {
                    break;
                }
                number = seal.number();
                before = seal.digest();
                if (kept.isPresent() && kept.get().number() == number) {
                    met = true;
                    knownBefore = sealed(SealedKind.CHANGE);
                    problem = differs("seal " + number, kept.get().digest(), before, "the head that was kept");
                }
            }
            page = problem.isPresent() ? List.of() : history.seals(number, PAGE_OF_SEALS);
        }
        if (problem.isEmpty() && (head.number() != number || !head.digest().equals(before))) {
            problem = Optional.of("the head names seal " + head.number() + ", and the newest that is there is " + number
                    + ": seals were removed, or the head was altered");
        }
        if (problem.isEmpty() && !met) {
            problem = Optional.of("the head that was kept names seal "
                    + kept.get().number() + ", and the newest that is there is " + number + ": seals were removed");
        }
        if (problem.isEmpty()) {
            problem = added(head);
        }
        Map<JobName, Long> unsealed = unsealed(head);
        if (problem.isEmpty()) {
            problem = removals.passed(history.now(), unsealed);
        }
        IdRanges old = knownBefore;
        List<CheckedErasure> erasures = Erasures.check(history, old);
        if (problem.isEmpty()) {
            problem = erasures.stream()
                    .filter(checked -> checked.doubt().isPresent())
                    .map(checked -> "the content of run " + checked.erasure().run() + " was erased at "
                            + checked.erasure().at() + ", and "
                            + checked.doubt().get())
                    .findFirst();
        }
        List<Removal> all = removals.all();
        return new Result(
                problem.map(found -> found + doubts(all)),
                number,
                counts,
                removed,
                unsealed.values().stream().mapToLong(Long::longValue).sum(),
                head,
                all.stream()
                        .filter(removal -> !old.contains(removal.line().id()))
                        .toList(),
                erasures);
    }

    private IdRanges sealed(SealedKind kind) {
        return sealed.getOrDefault(kind, IdRanges.NONE);
    }

    /** A person who wants a row gone may write a note that looks like retention's. */
    private static String doubts(List<Removal> removals) {
        return removals.stream()
                .filter(removal -> removal.doubt().isPresent())
                .findFirst()
                .map(removal -> "; line " + removal.line().id() + " of the change log, by "
                        + removal.line().change().who() + " from "
                        + removal.line().change().host()
                        + ", says that retention removed something, and is not believed: "
                        + removal.doubt().get())
                .orElse("");
    }

    private Optional<String> check(Seal seal, long expected, String before) {
        if (seal.number() != expected) {
            return Optional.of("seal " + expected + " is not there: it was removed");
        }
        String what = "seal " + seal.number() + " of " + seal.sealedAt();
        if (!seal.digestAfter(before).equals(seal.digest())) {
            return Optional.of(
                    what + " is not what it was: its own row was altered, or the seal before it was made anew");
        }
        boolean isFull = false;
        for (SealedKind kind : SealedKind.values()) {
            IdRanges numbers = seal.members(kind).numbers();
            if (!sealed(kind).minus(numbers).equals(sealed(kind))) {
                return Optional.of(what + " covers rows that an earlier one covers: it was made by something else");
            }
            sealed.merge(kind, numbers, IdRanges::plus);
            counts.merge(kind, numbers.count(), Long::sum);
            isFull |= numbers.count() >= kind.most();
        }
        for (SealedKind kind : SealedKind.values()) {
            Optional<String> problem = compare(kind, what, seal.members(kind));
            if (problem.isPresent()) {
                return problem;
            }
        }
        return removals.passed(seal.sealedAt(), seal.members(SealedKind.CHANGE).numbers(), isFull)
                .map(removed -> removed + " (it is in an earlier seal than " + what + ")");
    }

    /** Walks through the rows of a seal and through what is there now, side by side. */
    private Optional<String> compare(SealedKind kind, String seal, Members members) {
        String within = " (it is in " + seal + ")";
        long place = 0;
        for (IdRanges.Range range : members.numbers().ranges()) {
            for (long first = range.first(); first <= range.last(); first += PAGE) {
                long last = Math.min(range.last(), first + PAGE - 1);
                List<SealedRow> found =
                        history.sealedRows(kind, Long.MAX_VALUE, IdRanges.between(first, last), PAGE + 1);
                int next = 0;
                for (long number = first; number <= last; number++, place++) {
                    if (next == found.size() || found.get(next).number() != number) {
                        if (!isExplained(kind, number, members.mark(place))) {
                            return Optional.of(kind.row(number) + " was removed" + within);
                        }
                        removed++;
                        continue;
                    }
                    SealedRow row = found.get(next++);
                    if (!row.mark().equals(members.mark(place))) {
                        return Optional.of(row.what() + " was altered" + within);
                    }
                    if (next < found.size() && found.get(next).number() == number) {
                        return Optional.of(row.what() + " is there twice: one was added" + within);
                    }
                    if (kind == SealedKind.LINE) {
                        removals.present(row);
                    }
                }
            }
        }
        return Optional.empty();
    }

    private boolean isExplained(SealedKind kind, long number, String mark) {
        return Mark.minute(mark)
                .filter(minute -> removals.explains(kind, number, minute, sealed(SealedKind.CHANGE), kind.row(number)))
                .isPresent();
    }

    private static Optional<String> differs(String what, String expected, String found, String by) {
        return expected.equals(found)
                ? Optional.empty()
                : Optional.of(what + " has another digest than " + by + ": the seals were made anew");
    }

    /** Rows below the highest sealed number that were neither sealed nor missing then. */
    private Optional<String> added(SealHead head) {
        for (SealedKind kind : SealedKind.values()) {
            Reach reach = head.reach(kind);
            IdRanges known = sealed(kind).plus(reach.open());
            for (IdRanges.Range gap :
                    IdRanges.between(0, reach.high()).minus(known).ranges()) {
                List<SealedRow> found =
                        history.sealedRows(kind, Long.MAX_VALUE, IdRanges.between(gap.first(), gap.last()), 1);
                if (!found.isEmpty()) {
                    return Optional.of(found.get(0).what() + " was added: no seal knows of it");
                }
            }
        }
        return Optional.empty();
    }

    /** Counts the ledger lines that no seal covers, by job. */
    private Map<JobName, Long> unsealed(SealHead head) {
        Reach reach = head.reach(SealedKind.LINE);
        Map<JobName, Long> count = new HashMap<>();
        long beyond = reach.high();
        List<SealedRow> page = history.sealedRows(SealedKind.LINE, beyond, reach.open(), PAGE);
        List<Long> late = new ArrayList<>();
        while (!page.isEmpty()) {
            for (SealedRow row : page) {
                if (row.number() <= reach.high()) {
                    late.add(row.number());
                }
                row.job().ifPresent(job -> count.merge(job, 1L, Long::sum));
            }
            beyond = Math.max(beyond, page.get(page.size() - 1).number());
            page = page.size() == PAGE
                    ? history.sealedRows(SealedKind.LINE, beyond, reach.open().minus(IdRanges.of(late)), PAGE)
                    : List.of();
        }
        return count;
    }
}
