package dev.brume.cli;

import java.net.InetAddress;
import java.net.UnknownHostException;

/** Who runs this process, as the operating system knows it: what is on record beside the name that a person gives. */
final class SystemUser {
    private static final int LONGEST = 200;

    private SystemUser() {}

    /** {@return user and host, such as mara@quay-4} */
    static String here() {
        String user = ProcessHandle.current().info().user().orElseGet(() -> System.getProperty("user.name", "unknown"));
        String all = (user + "@" + host()).replaceAll("[^\\x21-\\x7e]", "-");
        return all.length() <= LONGEST ? all : all.substring(0, LONGEST);
    }

    private static String host() {
        try {
            return InetAddress.getLocalHost().getHostName();
        } catch (UnknownHostException e) {
            return "unknown-host";
        }
    }
}
