using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>The description of the network interface says what an integrator needs.</summary>
public sealed class Described
{
    [Fact]
    public void Every_operation_has_its_line_its_parameters_and_examples_that_fit()
    {
        var lacking = new List<string>();
        foreach (var (name, operation) in Contract.All)
        {
            if (string.IsNullOrEmpty((string?)operation["summary"]))
                lacking.Add($"{name} has no summary");
            if (operation["tags"]?.AsArray() is not { Count: 1 })
                lacking.Add($"{name} has no heading");
            foreach (var parameter in operation["parameters"]?.AsArray() ?? [])
                if (string.IsNullOrEmpty((string?)parameter!["description"]))
                    lacking.Add($"{name} says nothing of {parameter["name"]}");
            if (
                operation["requestBody"]?["content"]?["application/json"] is { } body
                && body["examples"] is null
            )
                lacking.Add($"{name} has no example of what it takes");
            foreach (var (status, answer) in operation["responses"]!.AsObject())
            {
                if (!status.StartsWith('2') || answer!["content"]?["application/json"] is not { } content)
                    continue;
                if (content["examples"]?["lantern-tide"]?["value"] is not { } shown)
                    lacking.Add($"{name} has no example of what it answers");
                else if (
                    Contract.FaultOf(
                        name,
                        int.Parse(status),
                        "application/json",
                        System.Text.Encoding.UTF8.GetBytes(shown.ToJsonString())
                    ) is
                    { } fault
                )
                    lacking.Add($"{name}: its example does not fit: {fault}");
            }
        }
        Assert.Empty(lacking);
    }

    [Theory]
    [InlineData("showWorkspace", 200, "application/json", "{}", true)]
    [InlineData("showWorkspace", 201, "application/json", "{}", true)]
    [InlineData("sail", 200, "application/json", "{}", true)]
    [InlineData("verifyRecord", 200, "application/json", """{"whole":1,"entries":2,"head":"x"}""", true)]
    [InlineData("verifyRecord", 404, "application/problem+json", """{"title":"x"}""", true)]
    [InlineData(
        "verifyRecord",
        404,
        "application/problem+json",
        """{"title":"There is none.","status":404,"code":"x.y"}""",
        false
    )]
    public void An_answer_that_does_not_fit_is_seen(
        string operation,
        int status,
        string type,
        string body,
        bool isWrong
    ) =>
        Assert.Equal(
            isWrong,
            Contract.FaultOf(operation, status, type, System.Text.Encoding.UTF8.GetBytes(body)) is not null
        );
}
