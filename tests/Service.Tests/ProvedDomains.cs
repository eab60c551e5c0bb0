using System.Diagnostics;
using ComeAboard.Client.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Tests.World;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class ProvedDomains_on_SQLite(SqliteHarbour harbour)
    : ProvedDomains(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class ProvedDomains_on_PostgreSQL(PostgresHarbour harbour)
    : ProvedDomains(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Mail domains that workspaces prove to be their own, by a real name server.</summary>
public abstract class ProvedDomains(Harbour harbour) : IAsyncLifetime
{
    private readonly Harbour _harbour = harbour;
    private readonly NameServer _dns = new(harbour.Dns);
    private static int _names;

    public async ValueTask InitializeAsync() => await _dns.StartAsync();

    public async ValueTask DisposeAsync()
    {
        await _dns.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    private static string NewDomain() => $"quay-{Interlocked.Increment(ref _names)}.example";

    [Fact]
    public async Task A_domain_is_proved_by_its_record_warned_about_when_that_goes_and_lost_after_fourteen_days()
    {
        var (ship, domain) = (await _harbour.NewShipAsync(), NewDomain());
        var added = await ship.Client.AddDomainAsync(new DomainRequest(" @" + domain.ToUpperInvariant()));
        Assert.Equal((domain, "waiting", "missing"), (added.Domain, added.State, added.LastLook));
        Assert.Equal("_come-aboard." + domain, added.RecordName);
        Assert.Equal(
            "domain.exists",
            await Refusing.CodeOf(ship.Client.AddDomainAsync(new DomainRequest(domain)))
        );
        foreach (var wrong in new[] { "", "harbour", "a b.example", "mira@x.example", "-.example" })
            Assert.Equal(
                "domain.malformed",
                await Refusing.CodeOf(ship.Client.AddDomainAsync(new DomainRequest(wrong)))
            );
        // What is another workspace's, or another domain's, shows nothing.
        await _dns.PutAsync(added.RecordName, "aboard=0123456789");
        Assert.Equal("waiting", (await ship.Client.CheckDomainAsync(domain)).State);
        await _dns.PutAsync(added.RecordName, added.RecordValue);
        // It is looked at by itself, too.
        await PassAsync(TimeSpan.FromMinutes(10));
        await IsAsync(ship, domain, "proved");
        Assert.Contains(
            domain,
            await ship.MailAsync(ship.Administrator, "is proved"),
            StringComparison.Ordinal
        );

        await _dns.PutAsync(added.RecordName, null);
        await PassAsync(TimeSpan.FromHours(6));
        var lapsing = await IsAsync(ship, domain, "lapsing");
        Assert.Equal(TimeSpan.FromDays(14), lapsing.LostAt - lapsing.MissingSince);
        await ship.MailAsync(ship.Administrator, $"{domain} is not shown any more");
        // Back within that time it counts without a break.
        await _dns.PutAsync(added.RecordName, added.RecordValue);
        var back = await ship.Client.CheckDomainAsync(domain);
        Assert.Equal(("proved", lapsing.ProvedAt), (back.State, back.ProvedAt));

        await _dns.PutAsync(added.RecordName, null);
        await ship.Client.CheckDomainAsync(domain);
        await PassAsync(TimeSpan.FromDays(11));
        await PassAsync(TimeSpan.FromDays(2));
        await IsAsync(ship, domain, "lapsing");
        await PassAsync(TimeSpan.FromDays(1));
        await IsAsync(ship, domain, "lost");
        await ship.MailAsync(ship.Administrator, $"The proof of {domain} is lost");
        Assert.Equal(
            2,
            _harbour
                .Inbox.To(ship.Administrator)
                .Count(m => m.Message.Subject == $"{domain} is not shown any more") - 1
        );
        var record = await ship.Client.RecordAsync();
        Assert.Equal(
            [
                "domain.lost",
                "domain.lapsing",
                "domain.proved",
                "domain.lapsing",
                "domain.proved",
                "domain.added",
            ],
            record
                .Items.Where(entry => entry.Action.StartsWith("domain.", StringComparison.Ordinal))
                .Select(entry => entry.Action)
        );
        Assert.Equal(domain, (await ship.Client.RemoveDomainAsync(domain, dryRun: true)).Domain);
        await ship.Client.RemoveDomainAsync(domain);
        Assert.Empty((await ship.Client.DomainsAsync()).Items);
        Assert.Equal("not-found", await Refusing.CodeOf(ship.Client.CheckDomainAsync(domain)));
    }

    [Fact]
    public async Task Of_two_workspaces_the_one_that_showed_it_first_holds_a_domain_until_that_is_lost()
    {
        var (first, second) = (await _harbour.NewShipAsync(), await _harbour.NewShipAsync());
        var domain = NewDomain();
        var one = await first.Client.AddDomainAsync(new DomainRequest(domain));
        await _dns.PutAsync(one.RecordName, one.RecordValue);
        Assert.Equal("proved", (await first.Client.CheckDomainAsync(domain)).State);

        // Who has not shown it learns nothing of who has.
        var other = await second.Client.AddDomainAsync(new DomainRequest(domain));
        Assert.Equal(("waiting", false), (other.State, other.HeldElsewhere));
        await _dns.PutAsync(other.RecordName, other.RecordValue);
        other = await second.Client.CheckDomainAsync(domain);
        Assert.Equal(("waiting", true), (other.State, other.HeldElsewhere));
        Assert.Equal("lapsing", (await first.Client.CheckDomainAsync(domain)).State);
        other = await second.Client.CheckDomainAsync(domain);
        Assert.Equal(("waiting", true), (other.State, other.HeldElsewhere));

        await PassAsync(TimeSpan.FromDays(14));
        await IsAsync(first, domain, "lost");
        Assert.Equal("proved", (await second.Client.CheckDomainAsync(domain)).State);
        await _dns.PutAsync(one.RecordName, one.RecordValue);
        Assert.True((await first.Client.CheckDomainAsync(domain)).HeldElsewhere);
    }

    [Fact]
    public async Task Of_two_workspaces_that_show_it_at_the_same_moment_one_comes_to_hold_it()
    {
        for (var round = 0; round < 4; round++)
        {
            var (first, second) = (await _harbour.NewShipAsync(), await _harbour.NewShipAsync());
            var domain = NewDomain();
            var (one, other) = (
                await first.Client.AddDomainAsync(new DomainRequest(domain)),
                await second.Client.AddDomainAsync(new DomainRequest(domain))
            );
            await _dns.PutAsync(
                one.RecordName,
                one.RecordValue + $"\"\n{one.RecordName}. IN TXT \"{other.RecordValue}"
            );
            var looks = await Task.WhenAll(
                first.Client.CheckDomainAsync(domain),
                second.OtherNode.CheckDomainAsync(domain),
                first.OtherNode.CheckDomainAsync(domain),
                second.Client.CheckDomainAsync(domain)
            );
            Assert.All(looks, look => Assert.True(look.State is "proved" || look.HeldElsewhere));
            var states = new[] { await OneAsync(first, domain), await OneAsync(second, domain) };
            Assert.Single(states, state => state.State == "proved");
            Assert.Single(states, state => state.HeldElsewhere);
        }
    }

    [Fact]
    public async Task A_name_server_that_does_not_answer_tells_nothing_and_holds_nobody_up()
    {
        var (ship, domain) = (await _harbour.NewShipAsync(), NewDomain());
        var added = await ship.Client.AddDomainAsync(new DomainRequest(domain));
        await _dns.PutAsync(added.RecordName, added.RecordValue);
        await ship.Client.CheckDomainAsync(domain);
        await _dns.FreezeAsync(true);
        try
        {
            var watch = Stopwatch.StartNew();
            var look = await ship.Client.CheckDomainAsync(domain);
            Assert.InRange(watch.Elapsed, TimeSpan.Zero, TimeSpan.FromSeconds(5));
            Assert.Equal(("proved", "unanswered"), (look.State, look.LastLook));
            // Only when that lasts is it taken for gone, and then there are fourteen days yet.
            await PassAsync(TimeSpan.FromDays(2));
            await IsAsync(ship, domain, "proved");
            await PassAsync(TimeSpan.FromDays(1));
            await IsAsync(ship, domain, "lapsing");
        }
        finally
        {
            await _dns.FreezeAsync(false);
        }
        Assert.Equal("proved", (await ship.Client.CheckDomainAsync(domain)).State);
    }

    /// <summary>The domain once it stands so: the service looks by itself, too, and may be at it.</summary>
    private static Task<DomainView> IsAsync(Ship ship, string domain, string state) =>
        Patience.UntilAsync(() => OneAsync(ship, domain), one => one.State == state);

    private static async Task<DomainView> OneAsync(Ship ship, string domain) =>
        (await ship.Client.DomainsAsync()).Items.Single(one => one.Domain == domain);

    /// <summary>Lets time pass, and has the domains that are due looked at, by both nodes at once.</summary>
    private async Task PassAsync(TimeSpan time)
    {
        _harbour.Clock.Offset += time;
        await Task.WhenAll(
            _harbour.Node.Services.GetRequiredService<Domains>().LookDueAsync(),
            _harbour.OtherNode.Services.GetRequiredService<Domains>().LookDueAsync()
        );
    }
}
