package dev.brume.cli;

import com.zaxxer.hikari.SQLExceptionOverride;
import java.sql.SQLException;
import java.util.Set;

/**
 * Tells the pool which errors of H2 mean that a connection is of no use any more, which their SQL states do not. Without it,
 * an instance on an H2 server that is named by its URL would be handed dead connections for ever once the server was started anew.
 */
public final class BrokenConnections implements SQLExceptionOverride {
    /** Connection broken, object closed, database closed, called at shutdown. */
    private static final Set<Integer> BROKEN = Set.of(90067, 90007, 90098, 90121);

    @java.lang.Override
    public Override adjudicate(SQLException thrown) {
        return BROKEN.contains(thrown.getErrorCode()) ? Override.MUST_EVICT : Override.CONTINUE_EVICT;
    }
}
