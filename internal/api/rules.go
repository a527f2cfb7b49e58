package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"ebbe.example/ebbe/internal/app"
	"ebbe.example/ebbe/internal/core/routine"
	"ebbe.example/ebbe/internal/core/rule"
	"ebbe.example/ebbe/internal/show"
	"ebbe.example/ebbe/internal/store"
)

// describeRules registers rules: what is done by itself with letters that meet conditions.
func (s *server) describeRules(a huma.API) {
	operation(s, a, http.MethodGet, "/api/rules", "rules", "The rules in their order, and the one that is proposed", func(ctx context.Context, who store.Who, _ *none) (show.RulesView, error) {
		return s.App.Rules(ctx, who)
	})
	operation(s, a, http.MethodPost, "/api/rules/try", "try-rule", "What a rule would have done in the last 60 days, and what speaks against it", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Conditions rule.Conditions `json:"conditions"`
			Steps      []routine.Step  `json:"steps" maxItems:"100"`
		}
	}) (show.DryRun, error) {
		return s.App.TryRule(ctx, who, in.Body.Conditions, in.Body.Steps)
	})
	operation(s, a, http.MethodGet, "/api/rules/for/{id}", "rule-for", "The conditions that a conversation speaks for", func(ctx context.Context, who store.Who, in *IDInput) (rule.Conditions, error) {
		return s.App.RuleOf(ctx, who, in.ID)
	})
	operation(s, a, http.MethodGet, "/api/rules/of-search", "rule-of-search", "The conditions that a search says", func(ctx context.Context, who store.Who, in *struct {
		Q string `query:"q" maxLength:"1000"`
	}) (show.RuleSearch, error) {
		return s.App.RuleOfSearch(ctx, who, in.Q)
	})
	operation(s, a, http.MethodGet, "/api/rules/{id}/did", "rule-did", "What a rule did lately", func(ctx context.Context, who store.Who, in *IDInput) ([]show.RuleDid, error) {
		return s.App.RuleDid(ctx, who, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/rules", "new-rule", "Make a rule", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.RuleFields
		}
	}) (app.Made, error) {
		return s.App.NewRule(ctx, who, in.Body.Command, in.Body.RuleFields)
	})
	operation(s, a, http.MethodPatch, "/api/rules/{id}", "edit-rule", "Change a rule, or take it away", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			app.RuleFields
		}
	}) (app.Decided, error) {
		return s.App.EditRule(ctx, who, in.Body.Command, in.ID, in.Body.RuleFields)
	})
	operation(s, a, http.MethodPost, "/api/rules/{id}/apply", "apply-rule", "Let a rule act on what is here now", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Archive bool   `json:"archive,omitempty" doc:"On what is in the archive, too"`
		}
	}) (app.Decided, error) {
		return s.App.ApplyRule(ctx, who, in.Body.Command, in.ID, in.Body.Archive)
	})
	operation(s, a, http.MethodPost, "/api/rules/{id}/undo", "undo-rule", "Take back all that a rule did", func(ctx context.Context, who store.Who, in *struct {
		IDInput
		Body struct {
			Command      string `json:"command" minLength:"8" maxLength:"80"`
			Entry        int64  `json:"entry,omitempty" doc:"Only of this step, with one conversation"`
			Conversation int64  `json:"conversation,omitempty"`
		}
	}) (app.Undone, error) {
		if in.Body.Entry != 0 {
			return s.App.UndoRuleFor(ctx, who, in.Body.Command, in.Body.Entry, in.Body.Conversation)
		}
		return s.App.UndoRule(ctx, who, in.Body.Command, in.ID)
	})
	operation(s, a, http.MethodPost, "/api/rules/script", "read-script", "Make rules of a Sieve script (RFC 5228), off until looked at", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Script  string `json:"script" maxLength:"5000000"`
		}
	}) (app.Decided, error) {
		return s.App.ReadScript(ctx, who, in.Body.Command, in.Body.Script)
	})
	operation(s, a, http.MethodPost, "/api/rules/declined", "decline-rule", "Turn a proposed rule down", func(ctx context.Context, who store.Who, in *struct {
		Body struct {
			Command string `json:"command" minLength:"8" maxLength:"80"`
			Key     string `json:"key" minLength:"1" maxLength:"1000"`
		}
	}) (app.Decided, error) {
		return s.App.DeclineRule(ctx, who, in.Body.Command, in.Body.Key)
	})
}

// ruleScript gives the rules as a Sieve script, to be saved.
func (s *server) ruleScript(c *gin.Context, who store.Who) error {
	script, err := s.App.RuleScript(c.Request.Context(), who)
	if err != nil {
		return err
	}
	attach(c, "attachment", "ebbe.sieve")
	c.Data(http.StatusOK, "application/sieve; charset=utf-8", []byte(script))
	return nil
}
