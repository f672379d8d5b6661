package dev.brume.schedule;

import java.time.Instant;
import java.time.LocalDateTime;
import java.util.Optional;
import java.util.Set;

/** A timeline without the occurrences of certain nominal times: a few, which the search steps over. */
final class Without implements Timeline {
    private final Timeline inner;
    private final Set<LocalDateTime> nominals;

    Without(Timeline inner, Set<LocalDateTime> nominals) {
        this.inner = inner;
        this.nominals = nominals;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        Optional<Occurrence> found = inner.next(after);
        while (found.isPresent() && nominals.contains(found.get().nominal())) {
            found = inner.next(found.get().instant());
        }
        return found;
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        Optional<Occurrence> found = inner.previous(before);
        while (found.isPresent() && nominals.contains(found.get().nominal())) {
            found = inner.previous(found.get().instant());
        }
        return found;
    }
}
