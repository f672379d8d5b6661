package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.http.BrumeHttp;
import dev.brume.http.Callers;
import jakarta.servlet.http.HttpServlet;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.boot.web.servlet.ServletRegistrationBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.core.Authentication;

/**
 * Serves Brume over HTTP, where the application has brume-http and says at which path. Whom Spring Security knows is let in with what their
 * authorities say, see {@link SecurityCallers}; without it, whoever holds a token of Brume's own.
 *
 * @since 0.1.0
 */
@AutoConfiguration(after = BrumeAutoConfiguration.class)
@ConditionalOnBean(BrumeSettings.class)
@ConditionalOnClass({BrumeHttp.class, HttpServlet.class})
@ConditionalOnWebApplication(type = ConditionalOnWebApplication.Type.SERVLET)
@ConditionalOnProperty(name = "brume.http-path")
public class BrumeHttpConfiguration {
    /** Called by Spring. */
    public BrumeHttpConfiguration() {}

    /** It is closed before the instance that it serves, since it is made of it. */
    @Bean(destroyMethod = "close")
    @ConditionalOnMissingBean
    BrumeHttp brumeHttp(Brume brume, ObjectProvider<Callers> callers, BrumeSettings settings) {
        BrumeHttp.Builder builder = BrumeHttp.of(brume);
        callers.ifAvailable(builder::callers);
        settings.list("http-framed-by")
                .forEach(origin -> BrumeSettings.read("http-framed-by", origin, builder::framedBy));
        return builder.build();
    }

    @Bean
    ServletRegistrationBean<HttpServlet> brumeServlet(BrumeHttp http, BrumeSettings settings) {
        ServletRegistrationBean<HttpServlet> servlet = new ServletRegistrationBean<>(
                http.servlet(),
                BrumeSettings.read("http-path", settings.text("http-path").orElse(""), this::mapping));
        servlet.setName("brume");
        servlet.setAsyncSupported(true);
        return servlet;
    }

    /** Reads where it is mounted. */
    private String mapping(String path) {
        if (!path.matches("(/[A-Za-z0-9._~-]+)+")) {
            throw new IllegalArgumentException("'" + path + "' is no path to mount it at (expected such as /brume)");
        }
        return path + "/*";
    }

    /** Who asks, as Spring Security knows them. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass(Authentication.class)
    static class Security {
        @Bean
        @ConditionalOnMissingBean
        Callers brumeCallers() {
            return new SecurityCallers("BRUME_");
        }
    }
}
