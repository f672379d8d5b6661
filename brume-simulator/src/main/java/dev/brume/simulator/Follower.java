package dev.brume.simulator;

import dev.brume.StoreException;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.feed.FeedReader;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;

/**
 * Somebody who follows the feed, now and then from an earlier place again or by another reader, and sees each end of a run once, in the order of
 * commits. Confined to one thread.
 */
final class Follower {
    private static final long SECOND = 1_000_000_000L;
    private static final int PAGE = 20;
    private static final long LONGEST_UNTOLD = 120 * SECOND;

    private final Instance instance;
    private final VirtualTime time;
    private final InvariantChecker checker;
    private final SplittableRandom random;
    private FeedReader reader;
    private final List<FeedEvent> seen = new ArrayList<>();
    private Optional<FeedPosition> position = Optional.empty();
    private int from;

    /** How often the store had become an older copy of itself when this one began, or began anew. */
    private int returns;

    /** Since when it has not been told that the store did so again. */
    private Optional<Long> untoldSince = Optional.empty();

    Follower(Instance instance, VirtualTime time, InvariantChecker checker, SplittableRandom random) {
        this.instance = instance;
        this.time = time;
        this.checker = checker;
        this.random = random;
        this.reader = new FeedReader(instance);
    }

    /** Reads now and then, sometimes after so long that nobody is taken to listen any more. */
    void follow() {
        try {
            if (random.nextInt(4) == 0) {
                reader = new FeedReader(instance);
            }
            if (random.nextInt(4) == 0) {
                goBack();
            }
            read();
        } catch (StoreException | FaultyStore.Crash e) {
            // It reads on from where it was.
        }
        time.after(random.nextLong(random.nextInt(10) == 0 ? 90 * SECOND : 4 * SECOND), this::follow);
    }

    /** As whoever lost the connection before the last events arrived. */
    private void goBack() {
        int lost = seen.isEmpty() ? 0 : random.nextInt(Math.min(seen.size(), 2 * PAGE));
        if (lost > 0) {
            seen.subList(seen.size() - lost, seen.size()).clear();
            position = seen.isEmpty()
                    ? position
                    : Optional.of(seen.get(seen.size() - 1).position());
            if (seen.isEmpty()) {
                beginAnew();
            }
        }
    }

    private void beginAnew() {
        position = Optional.empty();
        seen.clear();
    }

    private void read() {
        if (position.isEmpty()) {
            FeedPosition begin = reader.begin();
            position = Optional.of(begin);
            begins();
        }
        FeedPage page = reader.read(position.get(), PAGE);
        while (!page.events().isEmpty()) {
            seen.addAll(page.events());
            position = Optional.of(page.next());
            page = reader.read(position.get(), PAGE);
        }
        if (page.reset()) {
            seen.clear();
            position = Optional.of(page.next());
            begins();
        }
        if (checker.returns() != returns) {
            awaitReset();
            return;
        }
        List<Long> ended = seen.stream()
                .filter(event -> event.kind() == FeedEvent.Kind.ENDED)
                .flatMap(event -> event.run().stream())
                .toList();
        checker.checkFollowed(ended, from);
    }

    private void begins() {
        from = checker.endings().size();
        returns = checker.returns();
        untoldSince = Optional.empty();
    }

    /** What it was told of may be lost with what came after the copy; as soon as an instance notices, it begins anew. */
    private void awaitReset() {
        long now = time.nanos();
        untoldSince = Optional.of(untoldSince.orElse(now));
        checker.checkTold(now - untoldSince.get() < LONGEST_UNTOLD);
    }
}
