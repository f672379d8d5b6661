package dev.brume.spring.test;

import dev.brume.Brume;
import dev.brume.spring.BrumeAutoConfiguration;
import dev.brume.spring.BrumeJsonConfiguration;
import dev.brume.testkit.VirtualBrume;
import java.time.Instant;
import java.util.Map;
import org.springframework.beans.factory.support.BeanDefinitionRegistry;
import org.springframework.beans.factory.support.RootBeanDefinition;
import org.springframework.context.ConfigurableApplicationContext;
import org.springframework.context.annotation.Import;
import org.springframework.context.support.PropertySourcesPlaceholderConfigurer;
import org.springframework.core.env.MapPropertySource;
import org.springframework.test.context.ContextCustomizer;
import org.springframework.test.context.MergedContextConfiguration;

/**
 * Puts the virtual Brume into a context, and, of a test of jobs alone, leaves everything else out of it.
 *
 * @param beginning when time begins
 * @param collects whether one-offs are left waiting
 * @param alone whether it is a test of jobs alone
 */
record VirtualBrumeCustomizer(String beginning, boolean collects, boolean alone) implements ContextCustomizer {

    /** The part of the configuration that a test of jobs alone needs. */
    @Import({BrumeAutoConfiguration.class, BrumeJsonConfiguration.class})
    static class OfJobsAlone {}

    @Override
    public void customizeContext(ConfigurableApplicationContext context, MergedContextConfiguration merged) {
        context.getEnvironment()
                .getPropertySources()
                .addFirst(new MapPropertySource(
                        "virtual brume",
                        alone
                                ? Map.of("brume.start", "false", "spring.boot.enableautoconfiguration", "false")
                                : Map.of("brume.start", "false")));
        BeanDefinitionRegistry registry = (BeanDefinitionRegistry) context.getBeanFactory();
        RootBeanDefinition virtual = new RootBeanDefinition(VirtualBrume.class, this::open);
        virtual.setDestroyMethodName("close");
        registry.registerBeanDefinition("virtualBrume", virtual);
        RootBeanDefinition brume = new RootBeanDefinition(
                Brume.class, () -> context.getBean(VirtualBrume.class).brume());
        brume.setDestroyMethodName("");
        registry.registerBeanDefinition("brume", brume);
        if (alone) {
            context.getBeanFactory().registerSingleton(JobsAlone.class.getName(), new JobsAlone());
            registry.registerBeanDefinition(OfJobsAlone.class.getName(), new RootBeanDefinition(OfJobsAlone.class));
            registry.registerBeanDefinition(
                    "brumePlaceholders", new RootBeanDefinition(PropertySourcesPlaceholderConfigurer.class));
        }
    }

    private VirtualBrume open() {
        VirtualBrume.Builder builder = VirtualBrume.beginning(Instant.parse(beginning));
        return (collects ? builder.collectOneOffs() : builder).build();
    }
}
