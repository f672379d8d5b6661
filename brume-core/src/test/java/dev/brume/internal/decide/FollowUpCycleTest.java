package dev.brume.internal.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.JobName;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class FollowUpCycleTest {
    private static final JobName A = JobName.parse("a");
    private static final JobName B = JobName.parse("b");
    private static final JobName C = JobName.parse("c");
    private static final JobName D = JobName.parse("d");

    @Test
    void jobsThatComeTogetherAgainAreNoRing() {
        assertThat(FollowUpCycle.find(List.of(A, B), Map.of(A, List.of(B, C), B, List.of(D), C, List.of(D))))
                .isEmpty();
        assertThat(FollowUpCycle.find(List.of(A), Map.of())).isEmpty();
    }

    @Test
    void aRingIsNamedFromWhereItBegins() {
        assertThat(FollowUpCycle.find(
                        List.of(D, A), Map.of(A, List.of(D, B), B, List.of(C), C, List.of(B), D, List.<JobName>of())))
                .contains(B + " -> " + C + " -> " + B);
        assertThat(FollowUpCycle.find(List.of(A), Map.of(A, List.of(A)))).contains(A + " -> " + A);
    }
}
