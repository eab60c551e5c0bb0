using System.Net;
using System.Net.Sockets;
using ComeAboard.Service.Connections;
using ComeAboard.Service.SignIn;
using Microsoft.Extensions.Configuration;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>Whoever looks after a workspace names a provider's address; what only this network reaches is not asked by that.</summary>
public sealed class WayToProviders
{
    [Theory]
    [InlineData("127.0.0.1", null, false)]
    [InlineData("localhost", null, false)]
    [InlineData("[::1]", null, false)]
    [InlineData("[::ffff:127.0.0.1]", null, false)]
    [InlineData("127.0.0.1", "10.0.0.0/8", false)]
    [InlineData("127.0.0.1", "127.0.0.0/8", true)]
    public async Task Inner_addresses_are_asked_only_where_the_operator_allows_it(
        string host,
        string? networks,
        bool isAsked
    )
    {
        using var listening = new TcpListener(IPAddress.IPv6Any, 0);
        listening.Server.DualMode = true;
        listening.Start();
        var port = ((IPEndPoint)listening.LocalEndpoint).Port;
        var asked = listening.AcceptTcpClientAsync();
        using var network = new OutsideNetwork(SettingsWith(networks), new Reach(SettingsWith(networks)));
        var issuer = $"https://{host}:{port}";
        Assert.Equal(issuer, network.ReadIssuer(issuer).Value);
        var checking = network.ForbidsAsync(issuer);
        if (isAsked)
            (await asked.WaitAsync(TimeSpan.FromSeconds(10))).Dispose();
        Assert.Equal("provider.unreachable", (await checking)?.Code);
        Assert.Equal(isAsked, asked.IsCompletedSuccessfully);
    }

    [Fact]
    public void In_the_open_no_provider_is_asked()
    {
        using var network = new OutsideNetwork(SettingsWith(null), new Reach(SettingsWith(null)));
        Assert.Equal(
            "provider.issuer-malformed",
            network.ReadIssuer("http://sign-in.harbour.example").Refusal?.Code
        );
    }

    private static ServiceSettings SettingsWith(string? networks) =>
        ServiceSettings.Read(
            new ConfigurationBuilder()
                .AddInMemoryCollection(
                    new Dictionary<string, string?>
                    {
                        ["PublicUrl"] = "https://aboard.lantern-tide.example",
                        ["Providers:Networks"] = networks,
                    }
                )
                .Build()
        );
}
