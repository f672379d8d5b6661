package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.JsonPayloads;
import dev.brume.OwnTransaction;
import dev.brume.notice.Receiver;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.SmartInitializingSingleton;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.core.io.Resource;
import org.springframework.core.io.ResourceLoader;
import org.springframework.util.ClassUtils;

/** Once all beans are there: registers those that handle jobs, and puts in force what the application says of its jobs. */
final class BrumeSetup implements SmartInitializingSingleton {
    private static final Logger LOG = LoggerFactory.getLogger(BrumeSetup.class);
    private static final String USUAL_FILE = "classpath:brume.yaml";
    private static final long MOST_LOOKED_AT = 5000;
    private static final String READER = "dev.brume.definitions.DefinitionFile";

    private final Brume brume;
    private final BrumeSettings settings;
    private final RunScope scope;
    private final OwnTransaction transactions;
    private final Supplier<JsonPayloads> json;
    private final ConfigurableListableBeanFactory beans;
    private final ResourceLoader resources;

    BrumeSetup(
            Brume brume,
            BrumeSettings settings,
            RunScope scope,
            OwnTransaction transactions,
            Supplier<JsonPayloads> json,
            ConfigurableListableBeanFactory beans,
            ResourceLoader resources) {
        this.brume = brume;
        this.settings = settings;
        this.scope = scope;
        this.transactions = transactions;
        this.json = json;
        this.beans = beans;
        this.resources = resources;
    }

    @Override
    public void afterSingletonsInstantiated() {
        brume.around("spring", JobScope.ALL, scope);
        Map<JobName, HandlerBean> handlers = new HandlerBeans(beans).find();
        handlers.values().forEach(bean -> bean.register(brume, beans, json, transactions));
        beans.getBeansOfType(Receiver.class).forEach(this::receive);
        StatedJobs stated = new StatedJobs(handlers, settings, this::resolved);
        List<DefinitionSet> files = new ArrayList<>();
        files().forEach(file -> {
            DefinitionSet set = DefinitionResources.read(file);
            stated.addFile(set, "in " + file.getFilename());
            files.add(set);
        });
        stated.addProperties(new JobProperties(settings.environment()).documents());
        stated.addHandlers();
        // Files first: limits and calendars stand there.
        files.forEach(this::define);
        DefinitionSet own = stated.definitions();
        define(own);
        define(stated.ordered());
        LOG.debug("jobs of this application: {}", stated);
        tellOfThoseThatAreGone(own, stated);
    }

    /** What no version defines any more goes on until somebody drops it: this one cannot know whether another has it. */
    private void tellOfThoseThatAreGone(DefinitionSet own, StatedJobs stated) {
        if (brume.history().jobCount() > MOST_LOOKED_AT) {
            return;
        }
        brume.history().jobs().stream()
                .filter(view -> view.row().source().equals(own.sourceInFull()))
                .filter(view -> !view.job().schedules().isEmpty() && !stated.defines(view.name()))
                .forEach(view -> LOG.info(
                        "{} was defined by '{}', and is not by this version; if no version has it any more, drop it: brume drop {}",
                        view.name(),
                        own.source(),
                        view.name()));
    }

    private void receive(String bean, Receiver receiver) {
        if (!JobName.isName(bean)) {
            throw new SetupException(
                    "the bean '" + bean + "' takes notices, and no channel can name it so",
                    "name the bean as jobs are named, e.g. @Bean(\"duty\")");
        }
        brume.receive(bean, receiver);
    }

    private String resolved(String text) {
        return String.valueOf(beans.resolveEmbeddedValue(text));
    }

    private void define(DefinitionSet set) {
        try {
            List<Defined> defined = brume.define(set);
            defined.stream()
                    .filter(each -> each.kind() == Defined.Kind.NEW || each.kind() == Defined.Kind.CHANGED)
                    .forEach(each -> LOG.info("{} {}, version {}", each.name(), each.kind(), each.version()));
        } catch (IllegalArgumentException e) {
            throw new SetupException(set.source() + ": " + e.getMessage(), "correct the definitions");
        }
    }

    private List<Resource> files() {
        List<String> named = settings.list("definitions");
        List<Resource> files = new ArrayList<>();
        if (named.isEmpty() && resources.getResource(USUAL_FILE).exists()) {
            files.add(resources.getResource(USUAL_FILE));
        }
        for (String name : named) {
            Resource file = resources.getResource(name);
            if (!file.exists()) {
                throw new SetupException(
                        "brume.definitions: there is no " + file.getDescription(),
                        "correct that property; a file on the class path begins with classpath:");
            }
            files.add(file);
        }
        if (!files.isEmpty() && !ClassUtils.isPresent(READER, beans.getBeanClassLoader())) {
            throw new SetupException(
                    "there is a definition file, " + files.get(0).getDescription() + ", and nothing that reads it",
                    "add brume-definitions to the class path");
        }
        return files;
    }
}
