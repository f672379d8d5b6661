package dev.brume.spring;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.Outcome;
import dev.brume.Run;
import jakarta.persistence.Entity;
import jakarta.persistence.EntityManager;
import jakarta.persistence.EntityManagerFactory;
import jakarta.persistence.Id;
import jakarta.persistence.PersistenceContext;
import java.time.Duration;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.springframework.context.ApplicationContext;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.orm.jpa.JpaTransactionManager;
import org.springframework.orm.jpa.LocalContainerEntityManagerFactoryBean;
import org.springframework.orm.jpa.vendor.HibernateJpaVendorAdapter;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.annotation.EnableTransactionManagement;
import org.springframework.transaction.support.TransactionTemplate;

/** Orders and guarded commits in transactions of JPA. */
class JpaTest {
    private static final Duration LONG = Duration.ofSeconds(60);
    private static final JobName DUES = JobName.parse("dues");

    /** What is owed for a berth. */
    @Entity(name = "Due")
    public static class Due {
        @Id
        private long run;

        /** For JPA. */
        public Due() {}

        Due(long run) {
            this.run = run;
        }

        long run() {
            return run;
        }
    }

    static class Office {
        @PersistenceContext
        private EntityManager entities;

        @Handles("dues")
        @CommitsWithRun
        void book(Run run) {
            entities.persist(new Due(run.id()));
            entities.flush();
            if (run.payload().filter("sink"::equals).isPresent()) {
                throw new IllegalStateException("sunk");
            }
        }
    }

    @Configuration(proxyBeanMethods = false)
    @EnableTransactionManagement
    static class Persistence {
        @Bean
        LocalContainerEntityManagerFactoryBean entityManagerFactory(DataSource dataSource) {
            LocalContainerEntityManagerFactoryBean factory = new LocalContainerEntityManagerFactoryBean();
            HibernateJpaVendorAdapter hibernate = new HibernateJpaVendorAdapter();
            hibernate.setGenerateDdl(true);
            factory.setJpaVendorAdapter(hibernate);
            factory.setDataSource(dataSource);
            factory.setPackagesToScan(JpaTest.class.getPackageName());
            return factory;
        }

        @Bean
        PlatformTransactionManager transactionManager(EntityManagerFactory factory) {
            return new JpaTransactionManager(factory);
        }

        @Bean
        Office office() {
            return new Office();
        }
    }

    private static long dues(ApplicationContext context) {
        return context.getBean(EntityManagerFactory.class)
                .createEntityManager()
                .createQuery("select count(d) from Due d", Long.class)
                .getSingleResult();
    }

    private static Outcome run(ApplicationContext context, String payload) throws Exception {
        return context.getBean(Brume.class)
                .orders("anna", "")
                .runNow(DUES, payload)
                .await(LONG)
                .outcome();
    }

    @Test
    void entitiesOrdersAndEndsOfRunsCommitTogether() {
        Line.application().withUserConfiguration(Persistence.class).run(context -> {
            assertThat(context).hasNotFailed();
            OneOffs orders = context.getBean(OneOffs.class);
            TransactionTemplate transaction =
                    new TransactionTemplate(context.getBean(PlatformTransactionManager.class));
            EntityManager entities = context.getBean(Office.class).entities;

            assertThat(run(context, "")).isEqualTo(Outcome.SUCCEEDED);
            assertThat(run(context, "sink")).isEqualTo(Outcome.FAILED);
            assertThat(dues(context)).isEqualTo(1);

            transaction.executeWithoutResult(status -> {
                entities.persist(new Due(-1));
                orders.add(OneOff.of(DUES, "rolled back").in(Duration.ofDays(1)));
                status.setRollbackOnly();
            });
            transaction.executeWithoutResult(status -> {
                entities.persist(new Due(-2));
                orders.add(OneOff.of(DUES, "kept").in(Duration.ofDays(1)));
            });
            assertThat(orders.waiting(DUES, "", 10))
                    .extracting(each -> each.key())
                    .containsExactly("kept");
            assertThat(dues(context)).isEqualTo(2);
        });
    }
}
