package dev.brume.duties;

import dev.brume.port.ChangeView;
import dev.brume.port.RunView;
import dev.brume.port.SealSteps;
import dev.brume.port.Transaction;
import dev.brume.seal.Canonical;
import dev.brume.seal.IdRanges;
import dev.brume.seal.Seal;
import dev.brume.seal.SealHead;
import java.util.List;
import java.util.function.Function;
import java.util.function.ToLongFunction;
import java.util.stream.Collectors;

/**
 * Seals what is on record and not sealed yet, some thousand lines a seal.
 *
 * <p>Which lines a seal covers is decided under the lock of the head, by what is committed then: never by time, and never by
 * the highest number alone, since lines with a lower number may be committed later.
 */
public final class SealDuty {
    private static final int LINES = 5000;
    private static final int CHANGES = 2000;

    private final Instance instance;
    private final String who;

    /**
     * Creates the step.
     *
     * @param who has it done, for the seals
     */
    public SealDuty(Instance instance, String who) {
        this.instance = instance;
        this.who = who;
    }

    /** Seals everything; returns where sealing stands then. */
    public SealHead step() {
        SealHead before = instance.transact(tx -> tx.seals().lockHead());
        SealHead head = instance.transact(this::seal);
        while (head.number() > before.number()) {
            before = head;
            head = instance.transact(this::seal);
        }
        return head;
    }

    /** Seals everything if anything was ever sealed. */
    void stepIfBegun() {
        if (instance.transact(tx -> tx.seals().lockHead()).number() > 0) {
            step();
        }
    }

    private SealHead seal(Transaction tx) {
        SealSteps steps = tx.seals();
        SealHead head = steps.lockHead();
        List<RunView> lines = steps.lines(head.highRun(), head.openRuns(), LINES);
        List<ChangeView> changes = steps.changes(head.highChange(), head.openChanges(), CHANGES);
        if (lines.isEmpty() && changes.isEmpty()) {
            return head;
        }
        IdRanges runs = ids(lines, RunView::id);
        IdRanges numbers = ids(changes, ChangeView::id);
        Seal seal = Seal.of(
                head.number() + 1,
                head.digest(),
                tx.now(),
                who,
                runs,
                marks(lines, Canonical::of),
                numbers,
                marks(changes, Canonical::of));
        long highRun = high(head.highRun(), lines, RunView::id);
        long highChange = high(head.highChange(), changes, ChangeView::id);
        SealHead next = new SealHead(
                seal.number(),
                seal.digest(),
                highRun,
                head.openRuns()
                        .plus(IdRanges.between(head.highRun() + 1, highRun))
                        .minus(runs),
                highChange,
                head.openChanges()
                        .plus(IdRanges.between(head.highChange() + 1, highChange))
                        .minus(numbers));
        steps.add(seal);
        steps.head(next);
        return next;
    }

    private static <T> IdRanges ids(List<T> lines, ToLongFunction<T> id) {
        return IdRanges.of(lines.stream().map(id::applyAsLong).toList());
    }

    private static <T> String marks(List<T> lines, Function<T, String> form) {
        return lines.stream().map(line -> Canonical.mark(form.apply(line))).collect(Collectors.joining());
    }

    private static <T> long high(long before, List<T> lines, ToLongFunction<T> id) {
        return lines.stream().mapToLong(id).reduce(before, Math::max);
    }
}
