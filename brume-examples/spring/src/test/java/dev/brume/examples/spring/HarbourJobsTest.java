package dev.brume.examples.spring;

import static org.mockito.ArgumentMatchers.contains;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.ArgumentMatchers.startsWith;
import static org.mockito.Mockito.verify;

import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.spring.test.BrumeTest;
import dev.brume.testkit.VirtualBrume;
import java.time.Duration;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.test.context.TestPropertySource;
import org.springframework.test.context.bean.override.mockito.MockitoBean;

/** The jobs without the rest of the application, in virtual time. */
@BrumeTest(beginning = "2026-10-24T12:00:00Z")
@TestPropertySource(properties = "harbour.printing=0s")
class HarbourJobsTest {
    @Autowired
    private VirtualBrume brume;

    @MockitoBean
    private JdbcTemplate jdbc;

    @Test
    void lampsAreInspectedEveryTwoSeconds() {
        brume.advance(Duration.ofSeconds(10));

        brume.ledger("lamp-inspection").succeeded(6);
    }

    @Test
    void aCertificateIsPrintedOfWhatWasAskedFor() {
        brume.brume()
                .oneOffs()
                .add(
                        OneOff.of(JobName.parse("mooring-certificate"), "booking-17")
                                .payload(
                                        "{\"booking\": 17, \"ship\": \"Petrel\", \"arrives\": \"2026-10-24T11:59:58Z\", \"colour\": \"blue\"}"));
        brume.settle();

        brume.ledger("mooring-certificate").succeeded(1);
        verify(jdbc).update(contains("certificate"), startsWith("run "), eq(17L));
    }
}
