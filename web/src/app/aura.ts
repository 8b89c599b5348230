/** PrimeVue's preset with the components that this page uses and what those are made of: all would come first, and cost. */
import base from "@primeuix/themes/aura/base";
import accordion from "@primeuix/themes/aura/accordion";
import autocomplete from "@primeuix/themes/aura/autocomplete";
import avatar from "@primeuix/themes/aura/avatar";
import badge from "@primeuix/themes/aura/badge";
import button from "@primeuix/themes/aura/button";
import checkbox from "@primeuix/themes/aura/checkbox";
import chip from "@primeuix/themes/aura/chip";
import colorpicker from "@primeuix/themes/aura/colorpicker";
import confirmdialog from "@primeuix/themes/aura/confirmdialog";
import contextmenu from "@primeuix/themes/aura/contextmenu";
import datatable from "@primeuix/themes/aura/datatable";
import datepicker from "@primeuix/themes/aura/datepicker";
import dialog from "@primeuix/themes/aura/dialog";
import iconfield from "@primeuix/themes/aura/iconfield";
import inputgroup from "@primeuix/themes/aura/inputgroup";
import inputnumber from "@primeuix/themes/aura/inputnumber";
import inputtext from "@primeuix/themes/aura/inputtext";
import listbox from "@primeuix/themes/aura/listbox";
import menu from "@primeuix/themes/aura/menu";
import message from "@primeuix/themes/aura/message";
import multiselect from "@primeuix/themes/aura/multiselect";
import paginator from "@primeuix/themes/aura/paginator";
import panel from "@primeuix/themes/aura/panel";
import password from "@primeuix/themes/aura/password";
import popover from "@primeuix/themes/aura/popover";
import progressbar from "@primeuix/themes/aura/progressbar";
import radiobutton from "@primeuix/themes/aura/radiobutton";
import ripple from "@primeuix/themes/aura/ripple";
import select from "@primeuix/themes/aura/select";
import selectbutton from "@primeuix/themes/aura/selectbutton";
import skeleton from "@primeuix/themes/aura/skeleton";
import slider from "@primeuix/themes/aura/slider";
import splitter from "@primeuix/themes/aura/splitter";
import tabs from "@primeuix/themes/aura/tabs";
import tag from "@primeuix/themes/aura/tag";
import textarea from "@primeuix/themes/aura/textarea";
import toast from "@primeuix/themes/aura/toast";
import togglebutton from "@primeuix/themes/aura/togglebutton";
import tooltip from "@primeuix/themes/aura/tooltip";
import tree from "@primeuix/themes/aura/tree";
import virtualscroller from "@primeuix/themes/aura/virtualscroller";

export default {
  ...base,
  components: {
    accordion,
    autocomplete,
    avatar,
    badge,
    button,
    checkbox,
    chip,
    colorpicker,
    confirmdialog,
    contextmenu,
    datatable,
    datepicker,
    dialog,
    iconfield,
    inputgroup,
    inputnumber,
    inputtext,
    listbox,
    menu,
    message,
    multiselect,
    paginator,
    panel,
    password,
    popover,
    progressbar,
    radiobutton,
    ripple,
    select,
    selectbutton,
    skeleton,
    slider,
    splitter,
    tabs,
    tag,
    textarea,
    toast,
    togglebutton,
    tooltip,
    tree,
    virtualscroller,
  },
};
