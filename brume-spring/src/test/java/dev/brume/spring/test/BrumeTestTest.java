package dev.brume.spring.test;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.inOrder;

import dev.brume.spring.test.app.HarbourApplication;
import dev.brume.testkit.VirtualBrume;
import java.time.Duration;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.Test;
import org.mockito.InOrder;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.context.ApplicationContext;
import org.springframework.test.context.ContextConfiguration;
import org.springframework.test.context.bean.override.mockito.MockitoBean;

/** The slice for tests of jobs, as an application uses it. */
class BrumeTestTest {
    @Nested
    @BrumeTest(beginning = "2026-10-24T12:00:00Z")
    @ContextConfiguration(classes = HarbourApplication.class)
    class JobsAloneAreRunInVirtualTime {
        @Autowired
        private VirtualBrume brume;

        @Autowired
        private ApplicationContext context;

        @MockitoBean
        private HarbourApplication.Board board;

        @Test
        void andWhatTheyOrderToo() {
            brume.advance(Duration.ofHours(24));

            brume.ledger("tide-tables").succeeded(1);
            InOrder shown = inOrder(board);
            shown.verify(board).show("tides of 2026-10-25");
            shown.verify(board).show("print");
            assertThat(context.containsBean("dataSource")).isFalse();
        }
    }

    @Nested
    @BrumeTest(beginning = "2026-10-24T12:00:00Z", collectOneOffs = true)
    @ContextConfiguration(classes = HarbourApplication.class)
    class WhatIsOrderedIsCollected {
        @Autowired
        private VirtualBrume brume;

        @MockitoBean
        private HarbourApplication.Board board;

        @Test
        void ifThatIsAskedFor() {
            brume.advance(Duration.ofHours(24));

            assertThat(brume.planned())
                    .extracting(each -> each.payload().orElse(""))
                    .containsExactly("print");
        }
    }
}
