package dev.brume.internal.session;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.history.SessionRow;
import dev.brume.spi.Share;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class SharesTest {
    private static final Instant T = Instant.parse("2026-11-23T10:00:00Z");

    private static SessionRow session(int number, String... lanes) {
        return new SessionRow(
                new UUID(number * 0x9E3779B97F4A7C15L, number),
                "quay-" + number,
                "host",
                1,
                List.of(lanes),
                List.of(),
                "0.1.0",
                "2026a",
                0,
                SessionRow.State.OPEN,
                T,
                T,
                T.plusSeconds(10),
                Optional.empty(),
                Optional.of(List.of()),
                Duration.ZERO,
                Optional.empty());
    }

    private static List<SessionRow> sessions(int count) {
        return IntStream.rangeClosed(1, count)
                .mapToObj(i -> session(i, "main=8"))
                .toList();
    }

    private static Optional<UUID> owner(List<SessionRow> open, String lane, long job) {
        List<UUID> owners = open.stream()
                .map(SessionRow::id)
                .filter(id -> Shares.of(id, open).has(lane, job))
                .toList();
        assertThat(owners).as("owners of job " + job).hasSizeLessThan(2);
        return owners.stream().findFirst();
    }

    @Test
    void oneThatIsAloneHasAll() {
        assertThat(Shares.of(sessions(1).get(0).id(), sessions(1))).isEqualTo(Share.WHOLE);
        assertThat(Shares.of(UUID.randomUUID(), List.of())).isEqualTo(Share.WHOLE);
    }

    @Test
    void eachJobIsInOneShareAndTheSharesAreOfLikeSize() {
        List<SessionRow> open = sessions(4);
        int[] sizes = new int[4];
        for (long job = 1; job <= Share.BUCKETS; job++) {
            UUID owner = owner(open, "main", job).orElseThrow();
            sizes[open.stream().map(SessionRow::id).toList().indexOf(owner)]++;
        }
        assertThat(sizes)
                .satisfies(all -> assertThat(IntStream.of(all).allMatch(size -> size > 8 && size < 26))
                        .isTrue());
    }

    @Test
    void oneThatGoesLeavesTheSharesOfTheOthersAsTheyAre() {
        List<SessionRow> before = sessions(5);
        List<SessionRow> after = new ArrayList<>(before);
        UUID gone = after.remove(2).id();
        for (long job = 1; job <= Share.BUCKETS; job++) {
            UUID owner = owner(before, "main", job).orElseThrow();
            if (!owner.equals(gone)) {
                assertThat(owner(after, "main", job)).contains(owner);
            }
        }
    }

    @Test
    void jobsOfALaneAreDividedAmongThoseWhoServeIt() {
        List<SessionRow> open = List.of(session(1, "main=8"), session(2, "main=8", "night=1"), session(3, "night=2"));
        for (long job = 1; job <= Share.BUCKETS; job++) {
            assertThat(owner(open, "night", job))
                    .isNotEqualTo(Optional.of(open.get(0).id()));
            assertThat(owner(open, "main", job))
                    .isNotEqualTo(Optional.of(open.get(2).id()));
            assertThat(owner(open, "nobody's", job)).isEmpty();
        }
    }
}
