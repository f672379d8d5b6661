package dev.brume.cli;

import dev.brume.Grant;
import dev.brume.Role;
import dev.brume.internal.text.Secrets;
import java.io.PrintWriter;

/** Says where something is served, and on a terminal, which keeps nothing, how to sign in once. */
final class HttpLink {
    private HttpLink() {}

    static void tell(HttpOptions.Serving serving, PrintWriter out) {
        out.println("brume: serving " + serving.server().address() + " (" + serving.key()
                + " lets look; brume token add makes tokens)");
        if (System.console() != null) {
            out.println("brume: to sign in once, as " + System.getProperty("user.name") + ", who may look: "
                    + link(serving, System.getProperty("user.name"), Grant.everywhere(Role.VIEWER)));
        }
    }

    /** {@return an address that signs somebody in, once} */
    static String link(HttpOptions.Serving serving, String who, Grant grant) {
        String secret = Secrets.random();
        serving.http().link(secret, who, grant);
        return serving.server().address() + "/open/" + secret;
    }
}
