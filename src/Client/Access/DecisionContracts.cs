namespace ComeAboard.Client.Access;

/// <summary>Somebody, in an access evaluation (OpenID AuthZEN Authorization API 1.0, section 5.1).</summary>
/// <param name="Type"><c>user</c>.</param>
/// <param name="Id">A member's address or id.</param>
public sealed record EvaluationSubject(string? Type, string? Id);

/// <summary>An action, in an access evaluation (section 5.3).</summary>
/// <param name="Name">view, contribute, edit or manage; about the workspace itself also a duty.</param>
public sealed record EvaluationAction(string? Name);

/// <summary>What is to be acted on, in an access evaluation (section 5.2).</summary>
/// <param name="Type"><c>resource</c>, <c>area</c>, or <c>workspace</c>.</param>
/// <param name="Id">Its name or id; of a workspace, its short name.</param>
/// <param name="Properties"><c>made_by</c>: the address or id of whoever made the entry asked about.</param>
public sealed record EvaluationResource(
    string? Type,
    string? Id,
    IReadOnlyDictionary<string, System.Text.Json.JsonElement>? Properties = null
);

/// <summary>The question: may this person do this with this resource now (section 6.1).</summary>
/// <param name="Subject">Who.</param>
/// <param name="Action">What.</param>
/// <param name="Resource">With what.</param>
/// <param name="Context"><c>explain</c>: true to be told the reason.</param>
public sealed record EvaluationRequest(
    EvaluationSubject? Subject = null,
    EvaluationAction? Action = null,
    EvaluationResource? Resource = null,
    IReadOnlyDictionary<string, System.Text.Json.JsonElement>? Context = null
);

/// <summary>Several questions at once; what one does not say is taken from here (section 7.1).</summary>
/// <param name="Evaluations">The questions, at most 1,000.</param>
/// <param name="Subject">Who, unless a question says.</param>
/// <param name="Action">What, unless a question says.</param>
/// <param name="Resource">With what, unless a question says.</param>
/// <param name="Context">In which context, unless a question says.</param>
/// <param name="Options"><c>evaluations_semantic</c>: execute_all, deny_on_first_deny or permit_on_first_permit.</param>
public sealed record EvaluationsRequest(
    IReadOnlyList<EvaluationRequest>? Evaluations = null,
    EvaluationSubject? Subject = null,
    EvaluationAction? Action = null,
    EvaluationResource? Resource = null,
    IReadOnlyDictionary<string, System.Text.Json.JsonElement>? Context = null,
    IReadOnlyDictionary<string, System.Text.Json.JsonElement>? Options = null
);

/// <summary>The answer (section 6.2).</summary>
/// <param name="Decision">Whether they may.</param>
/// <param name="Context">The reason, when it was asked for.</param>
public sealed record EvaluationAnswer(bool Decision, EvaluationReason? Context = null);

/// <summary>Why.</summary>
/// <param name="Reason">In plain words.</param>
/// <param name="Code">Stable: granted, level, cut.…, subject.unknown, resource.unknown.</param>
/// <param name="Grants">The ids of the grants that produce it.</param>
public sealed record EvaluationReason(string Reason, string Code, IReadOnlyList<Guid> Grants);

/// <summary>The answers, in the order of the questions (section 7.2).</summary>
/// <param name="Evaluations">The answers.</param>
public sealed record EvaluationsAnswer(IReadOnlyList<EvaluationAnswer> Evaluations);

/// <summary>Where access decisions are made (section 9.1.1).</summary>
/// <param name="PolicyDecisionPoint">The base of it.</param>
/// <param name="AccessEvaluationEndpoint">Where one question is asked.</param>
/// <param name="AccessEvaluationsEndpoint">Where several are.</param>
public sealed record DecisionPoint(
    [property: System.Text.Json.Serialization.JsonPropertyName("policy_decision_point")]
        string PolicyDecisionPoint,
    [property: System.Text.Json.Serialization.JsonPropertyName("access_evaluation_endpoint")]
        string AccessEvaluationEndpoint,
    [property: System.Text.Json.Serialization.JsonPropertyName("access_evaluations_endpoint")]
        string AccessEvaluationsEndpoint
);
