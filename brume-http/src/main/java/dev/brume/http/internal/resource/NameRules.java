package dev.brume.http.internal.resource;

import dev.brume.Job;
import dev.brume.SharedName;
import dev.brume.Work;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.http.AllowedNames;
import dev.brume.http.internal.web.FieldError;
import dev.brume.notice.Channel;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import java.net.URI;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Refuses what a definition that comes over HTTP may not name: programs, hosts, variables and files that no list of its namespace holds. Work that is
 * in force already, since a file or an application defines it, may stay as it is.
 */
final class NameRules {
    private static final Pattern PLACE = Pattern.compile("\\$\\{(?:json:)?(env|file):([^}]*)\\}");

    private final Map<String, AllowedNames> allowed;

    NameRules(Map<String, AllowedNames> allowed) {
        this.allowed = allowed;
    }

    /**
     * {@return what is refused}
     *
     * @param path of the job within what was sent, as a pointer
     */
    List<FieldError> refusals(History history, Job job, String path) {
        Optional<JobView> there = history.job(job.name());
        if (there.filter(view -> view.job().work().equals(job.work())).isPresent()) {
            return List.of();
        }
        String namespace = job.name().namespace();
        Check check = new Check(namespace, allowed.getOrDefault(namespace, AllowedNames.NONE), path + "/work");
        if (job.work() instanceof Work.Program program) {
            check.program(program);
        } else if (job.work() instanceof Work.Request request) {
            check.request(request);
        }
        return check.errors;
    }

    /** {@return what is refused of the channels of a source; those that are in force already may stay as they are} */
    List<FieldError> refusals(History history, String namespace, Telling telling) {
        List<Channel> there = history.tellings().stream()
                .flatMap(row -> row.telling().channels().stream())
                .toList();
        List<FieldError> errors = new ArrayList<>();
        telling.channels().stream().filter(channel -> !there.contains(channel)).forEach(channel -> {
            Check check = new Check(
                    namespace,
                    allowed.getOrDefault(namespace, AllowedNames.NONE),
                    "/channels/"
                            + SharedName.from(namespace, channel.name())
                                    .replace("~", "~0")
                                    .replace("/", "~1"));
            check.channel(channel.way());
            errors.addAll(check.errors);
        });
        return errors;
    }

    private static final class Check {
        private final String namespace;
        private final AllowedNames names;
        private final String path;
        private final List<FieldError> errors = new ArrayList<>();

        private Check(String namespace, AllowedNames names, String path) {
            this.namespace = namespace;
            this.names = names;
            this.path = path;
        }

        private void refuse(String member, String what, String list, Set<String> held) {
            errors.add(FieldError.ofMember(
                    path + member,
                    what + " is not on the list of " + list + " that definitions of namespace '" + namespace
                            + "' may name over HTTP, which "
                            + (held.isEmpty() ? "is empty" : "holds " + held.size())
                            + "; let a file define the job, or start the server with the name on that list"));
        }

        private void program(Work.Program program) {
            String name = program.command().get(0);
            if (!names.programs().contains(name)) {
                refuse("/program/0", "the program '" + name + "'", "programs", names.programs());
            }
            program.environment().keySet().stream()
                    .filter(variable -> !names.variables().contains(variable))
                    .forEach(variable -> refuse(
                            "/environment/" + variable, "the variable " + variable, "variables", names.variables()));
            program.folder()
                    .filter(folder -> !names.files().contains(folder))
                    .ifPresent(folder -> refuse("/folder", "the folder '" + folder + "'", "files", names.files()));
        }

        private void channel(Way way) {
            if (way instanceof Way.Program program) {
                String name = program.command().get(0);
                if (!names.programs().contains(name)) {
                    refuse("/program/0", "the program '" + name + "'", "programs", names.programs());
                }
                program.command().forEach(part -> places("/program", part));
            } else if (way instanceof Way.Webhook hook) {
                String host = host(hook.url());
                if (!names.hosts().contains(host)) {
                    refuse("/webhook/url", "the host '" + host + "'", "hosts", names.hosts());
                }
                places("/webhook/url", hook.url());
                hook.secret().ifPresent(secret -> places("/webhook/secret", secret));
                hook.headers().forEach((name, value) -> places("/webhook/headers/" + name, value));
            } else if (way instanceof Way.Mail mail) {
                String server = mail.server().toLowerCase(Locale.ROOT);
                if (!names.hosts().contains(server)) {
                    refuse("/mail/server", "the host '" + server + "'", "hosts", names.hosts());
                }
                mail.user().ifPresent(user -> places("/mail/user", user));
                mail.password().ifPresent(password -> places("/mail/password", password));
            }
        }

        private void request(Work.Request request) {
            String host = host(request.url());
            if (!names.hosts().contains(host)) {
                refuse("/http/url", "the host '" + host + "'", "hosts", names.hosts());
            }
            places("/http/url", request.url());
            request.body().ifPresent(text -> places("/http/body", text));
            request.headers().forEach((name, value) -> places("/http/headers/" + name, value));
        }

        /** A host that is known only when a run begins is on no list. */
        private static String host(String url) {
            try {
                URI uri = URI.create(PLACE.matcher(url).replaceAll("0").replaceAll("\\$\\{[^}]*\\}", "0"));
                int port = uri.getPort();
                String plain = Optional.ofNullable(uri.getHost()).orElse(url).toLowerCase(Locale.ROOT);
                boolean filled = url.replaceFirst("^[a-zA-Z]+://", "")
                        .replaceFirst("[/?#].*", "")
                        .contains("${");
                return filled ? url : plain + (port < 0 ? "" : ":" + port);
            } catch (IllegalArgumentException e) {
                return url;
            }
        }

        private void places(String member, String text) {
            Matcher place = PLACE.matcher(text);
            while (place.find()) {
                boolean variable = place.group(1).equals("env");
                Set<String> held = variable ? names.variables() : names.files();
                if (!held.contains(place.group(2))) {
                    refuse(
                            member,
                            (variable ? "the variable " : "the file ") + place.group(2),
                            variable ? "variables" : "files",
                            held);
                }
            }
        }
    }
}
