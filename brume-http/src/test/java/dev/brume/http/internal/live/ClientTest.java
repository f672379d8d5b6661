package dev.brume.http.internal.live;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.history.FeedPosition;
import dev.brume.http.Caller;
import jakarta.servlet.AsyncContext;
import jakarta.servlet.ServletOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Somebody who follows and reads more slowly than things happen. */
class ClientTest {
    private final AsyncContext async = mock(AsyncContext.class);
    private final ServletOutputStream out = mock(ServletOutputStream.class);
    private final StringBuilder written = new StringBuilder();
    private final Client client = new Client(
            async,
            out,
            3,
            new Wanted(
                    Caller.of("ines", Grant.everywhere(Role.VIEWER)),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty()),
            () -> true,
            FeedPosition.parse("0.0.0"));

    @BeforeEach
    void keepWhatIsWritten() throws IOException {
        doAnswer(call -> written.append(new String(call.getArgument(0), StandardCharsets.UTF_8)))
                .when(out)
                .write(any(byte[].class));
    }

    @Test
    void whoReadsTooSlowlyIsCutAndTold() {
        when(out.isReady()).thenReturn(false);
        for (String event : "abc".split("")) {
            client.tell(Piece.of(event, 1));
        }
        assertThat(client.behind()).isEqualTo(3);
        client.tell(Piece.of("d", 1));
        verify(async, never()).complete();

        when(out.isReady()).thenReturn(true);
        client.onWritePossible();
        assertThat(written.toString())
                .isEqualTo(
                        "event: cut\ndata: {\"reason\":\"more than 3 events behind; come back with Last-Event-ID\"}\n\n");
        verify(async).complete();
        assertThat(client.hasEnded()).isTrue();
        String told = written.toString();
        client.tell(Piece.of("later", 1));
        assertThat(written.toString()).as("nothing comes behind it").isEqualTo(told);
    }

    @Test
    void whoKeepsUpIsToldEverything() {
        when(out.isReady()).thenReturn(true);
        for (String event : "abcdefgh".split("")) {
            client.tell(Piece.of(event, 1));
        }
        assertThat(written.toString()).isEqualTo("abcdefgh");
        assertThat(client.behind()).isZero();
    }

    @Test
    void whoHasLeftIsForgotten() throws IOException {
        when(out.isReady()).thenReturn(true);
        doThrow(new IOException("connection reset")).when(out).write(any(byte[].class));

        client.tell(Piece.of("a", 1));
        assertThat(client.hasEnded()).isTrue();
        verify(async).complete();
    }
}
