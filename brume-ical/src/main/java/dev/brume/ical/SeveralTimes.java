package dev.brume.ical;

import dev.brume.schedule.LocalTimes;
import java.util.List;
import java.util.function.LongBinaryOperator;
import java.util.function.ToLongFunction;

/** What any of several recurrences names. Immutable. */
final class SeveralTimes implements LocalTimes {
    private final List<LocalTimes> all;

    private SeveralTimes(List<LocalTimes> all) {
        this.all = all;
    }

    static LocalTimes of(List<LocalTimes> all) {
        return all.isEmpty() ? new NoTimes() : all.size() == 1 ? all.get(0) : new SeveralTimes(List.copyOf(all));
    }

    @Override
    public long next(long from) {
        return of(times -> times.next(from), Math::min);
    }

    @Override
    public long previous(long from) {
        return of(times -> times.previous(from), Math::max);
    }

    private long of(ToLongFunction<LocalTimes> asked, LongBinaryOperator chosen) {
        return all.stream()
                .mapToLong(asked)
                .filter(at -> at != NONE)
                .reduce(chosen)
                .orElse(NONE);
    }
}
