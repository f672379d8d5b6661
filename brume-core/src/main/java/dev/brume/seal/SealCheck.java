package dev.brume.seal;

import dev.brume.port.ChangeView;
import dev.brume.port.History;
import dev.brume.port.RunView;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.ToLongFunction;

/**
 * Computes all seals again, and names the first line that is not as it was sealed.
 *
 * <p>What was sealed and is gone is all right if retention has put its number into the change log, whose own lines are sealed, and the bounds that were in force then
 * allow it.
 * Whoever can write to every table can make all seals anew; only a head that was kept elsewhere shows that. Confined to one
 * thread.
 */
public final class SealCheck {
    /** Stands before the numbers of the lines in what retention puts into the change log. */
    public static final String REMOVED = "; sealed lines: ";

    private static final int PAGE = 2000;

    private final History history;
    private long lines;
    private long changes;
    private long removed;
    private IdRanges sealedLines = IdRanges.NONE;
    private IdRanges sealedChanges = IdRanges.NONE;

    private SealCheck(History history) {
        this.history = history;
    }

    /**
     * What a check came to.
     *
     * @param problem the first thing that is not as it was sealed; empty if all is
     * @param seals how many were computed again
     * @param lines how many ledger lines
     * @param changes how many lines of the change log
     * @param removed how many sealed lines retention has removed since
     * @param unsealed how many ledger lines came after the newest seal
     * @param head where sealing stands
     * @param removals what the change log says of lines that retention removed, since the head that was kept if one was, the newest first
     */
    public record Result(
            Optional<String> problem,
            long seals,
            long lines,
            long changes,
            long removed,
            long unsealed,
            SealHead head,
            List<Removal> removals) {}

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
        Removals removals = Removals.of(history);
        IdRanges retained = removals.believed();
        IdRanges knownBefore = IdRanges.NONE;
        String before = SealHead.NOTHING;
        long number = 0;
        Optional<String> problem = Optional.empty();
        boolean met = kept.isEmpty() || kept.get().number() == 0;
        List<Seal> page = history.seals(0, PAGE_OF_SEALS);
        while (!page.isEmpty() && problem.isEmpty()) {
            for (Seal seal : page) {
                problem = check(seal, number + 1, before, retained);
                if (problem.isPresent()) {
                    break;
                }
                number = seal.number();
                before = seal.digest();
                if (kept.isPresent() && kept.get().number() == number) {
                    met = true;
                    knownBefore = sealedChanges;
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
        IdRanges old = knownBefore;
        List<Removal> since = removals.all().stream()
                .filter(removal -> !old.contains(removal.change()))
                .toList();
        Optional<String> doubted = problem.map(found -> found + doubts(removals.all()));
        return new Result(doubted, number, lines, changes, removed, unsealed(head), head, since);
    }

    /** Who wants a line gone may write a note that looks like retention's. */
    private static String doubts(List<Removal> removals) {
        return removals.stream()
                .filter(removal -> removal.doubt().isPresent())
                .findFirst()
                .map(removal -> "; line " + removal.change() + " of the change log, by " + removal.who() + " from "
                        + removal.from()
                        + ", says that retention removed something, and is not believed: "
                        + removal.doubt().get())
                .orElse("");
    }

    private static final int PAGE_OF_SEALS = 20;

    private Optional<String> check(Seal seal, long expected, String before, IdRanges retained) {
        if (seal.number() != expected) {
            return Optional.of("seal " + expected + " is not there: it was removed");
        }
        String what = "seal " + seal.number() + " of " + seal.sealedAt();
        if (!seal.digestAfter(before).equals(seal.digest())) {
            return Optional.of(
                    what + " is not what it was: its own row was altered, or the seal before it was made anew");
        }
        if (!sealedLines.minus(seal.lines()).equals(sealedLines)) {
            return Optional.of(what + " covers lines that an earlier one covers: it was made by something else");
        }
        sealedLines = sealedLines.plus(seal.lines());
        sealedChanges = sealedChanges.plus(seal.changes());
        Optional<String> line = compare(
                what,
                "ledger line of run ",
                seal.lines(),
                seal.lineMarks(),
                retained,
                RunView::id,
                Canonical::of,
                history::lines);
        lines += seal.lines().count();
        if (line.isPresent()) {
            return line;
        }
        changes += seal.changes().count();
        return compare(
                what,
                "change log line ",
                seal.changes(),
                seal.changeMarks(),
                IdRanges.NONE,
                ChangeView::id,
                Canonical::of,
                history::changeLines);
    }

    /** Reads lines by number. */
    private interface Reading<T> {
        List<T> read(long beyond, IdRanges open, int limit);
    }

    /** Walks through the lines of a seal and through what is there now, side by side. */
    private <T> Optional<String> compare(
            String seal,
            String name,
            IdRanges members,
            String marks,
            IdRanges retained,
            ToLongFunction<T> id,
            Function<T, String> form,
            Reading<T> reading) {
        long place = 0;
        for (IdRanges.Range range : members.ranges()) {
            for (long first = range.first(); first <= range.last(); first += PAGE) {
                long last = Math.min(range.last(), first + PAGE - 1);
                List<T> found = reading.read(Long.MAX_VALUE, IdRanges.between(first, last), PAGE + 1);
                int next = 0;
                for (long number = first; number <= last; number++, place++) {
                    boolean there = next < found.size() && id.applyAsLong(found.get(next)) == number;
                    if (!there && !retained.contains(number)) {
                        return Optional.of(name + number + " was removed (it is in " + seal + ")");
                    }
                    removed += there ? 0 : 1;
                    if (there && !Canonical.mark(form.apply(found.get(next))).equals(Seal.mark(marks, place))) {
                        return Optional.of(name + number + " was altered (it is in " + seal + ")");
                    }
                    next += there ? 1 : 0;
                    if (next < found.size() && id.applyAsLong(found.get(next)) == number) {
                        return Optional.of(name + number + " is there twice: one was added (it is in " + seal + ")");
                    }
                }
            }
        }
        return Optional.empty();
    }

    private static Optional<String> differs(String what, String expected, String found, String by) {
        return expected.equals(found)
                ? Optional.empty()
                : Optional.of(what + " has another digest than " + by + ": the seals were made anew");
    }

    /** What is on record below the highest that was sealed, and was neither sealed nor missing then. */
    private Optional<String> added(SealHead head) {
        Optional<String> line = added(
                "ledger line of run ", head.highRun(), sealedLines.plus(head.openRuns()), RunView::id, history::lines);
        return line.isPresent()
                ? line
                : added(
                        "change log line ",
                        head.highChange(),
                        sealedChanges.plus(head.openChanges()),
                        ChangeView::id,
                        history::changeLines);
    }

    private static <T> Optional<String> added(
            String name, long high, IdRanges known, ToLongFunction<T> id, Reading<T> reading) {
        for (IdRanges.Range gap : IdRanges.between(0, high).minus(known).ranges()) {
            List<T> found = reading.read(Long.MAX_VALUE, IdRanges.between(gap.first(), gap.last()), 1);
            if (!found.isEmpty()) {
                return Optional.of(name + id.applyAsLong(found.get(0)) + " was added: no seal knows of it");
            }
        }
        return Optional.empty();
    }

    private long unsealed(SealHead head) {
        long count = 0;
        long beyond = head.highRun();
        List<RunView> page = history.lines(beyond, head.openRuns(), PAGE);
        List<Long> late = new ArrayList<>();
        while (!page.isEmpty()) {
            for (RunView run : page) {
                if (run.id() <= head.highRun()) {
                    late.add(run.id());
                }
                count++;
            }
            beyond = Math.max(beyond, page.get(page.size() - 1).id());
            page = page.size() == PAGE
                    ? history.lines(beyond, head.openRuns().minus(IdRanges.of(late)), PAGE)
                    : List.of();
        }
        return count;
    }
}
