package dev.brume.http;

import java.util.Set;
import java.util.TreeSet;

/**
 * What a definition that comes over HTTP may name beside handlers: without a list, whoever may define would have a shell. Set per namespace, at the
 * start; definitions in files and in code are not bound by it.
 *
 * @param programs as the first word of a command has them, such as {@code /usr/local/bin/tide}
 * @param hosts of requests, such as {@code board.merrow.example} or, with a port that is not the usual one, {@code 127.0.0.1:8400}
 * @param variables of an instance's environment
 * @param files of an instance's machine
 * @since 0.1.0
 */
public record AllowedNames(Set<String> programs, Set<String> hosts, Set<String> variables, Set<String> files) {
    /** Handlers alone. */
    public static final AllowedNames NONE = new AllowedNames(Set.of(), Set.of(), Set.of(), Set.of());

    /** Makes the sets unmodifiable. */
    public AllowedNames {
        programs = Set.copyOf(programs);
        hosts = Set.copyOf(hosts);
        variables = Set.copyOf(variables);
        files = Set.copyOf(files);
    }

    private static Set<String> and(Set<String> some, String... more) {
        Set<String> all = new TreeSet<>(some);
        all.addAll(Set.of(more));
        return all;
    }

    /** {@return the same with some programs more} */
    public AllowedNames program(String... names) {
        return new AllowedNames(and(programs, names), hosts, variables, files);
    }

    /** {@return the same with some hosts more} */
    public AllowedNames host(String... names) {
        return new AllowedNames(programs, and(hosts, names), variables, files);
    }

    /** {@return the same with some variables more} */
    public AllowedNames variable(String... names) {
        return new AllowedNames(programs, hosts, and(variables, names), files);
    }

    /** {@return the same with some files more} */
    public AllowedNames file(String... names) {
        return new AllowedNames(programs, hosts, variables, and(files, names));
    }
}
