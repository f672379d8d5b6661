package dev.brume;

import java.time.Instant;
import java.util.Optional;

/**
 * A token that was just made. Its secret is told here and never again.
 *
 * @param name what it is called
 * @param grant what it lets do, and where
 * @param until when it ends by itself; empty if it does not
 * @param secret to be shown by whoever comes in by it
 * @since 0.1.0
 */
public record NewToken(String name, Grant grant, Optional<Instant> until, String secret) {

    /** {@return what it is, without its secret} */
    @Override
    public String toString() {
        return "token " + name + ", " + grant;
    }
}
