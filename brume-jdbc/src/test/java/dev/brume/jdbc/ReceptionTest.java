package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.Socket;
import org.junit.jupiter.api.Test;

/** Visitors of an embedded database, as its owner stops to receive them. */
class ReceptionTest {
    private static final int PATIENCE_MILLIS = 20_000;

    /** Whoever has proved who they are, and was not yet given to the server, must not wait for an answer that nobody will give. */
    @Test
    void whoIsLetInAsItClosesIsHungUpOn() throws Exception {
        Reception reception = new Reception("secret");
        try (Socket early = Handshake.visit(reception.getLocalPort(), "secret")) {
            reception.close();

            early.setSoTimeout(PATIENCE_MILLIS);
            assertThat(early.getInputStream().read()).isEqualTo(-1);
        }
    }
}
